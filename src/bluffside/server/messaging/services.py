"""Writes on messages: letting go, receipts, replies, opting out, clicks."""

import uuid
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Literal

from django.db import transaction
from django.db.models import F, Func, Value

from bluffside.core.channels.answers import asks_too, is_likely_opt_out, keyword, meant
from bluffside.core.channels.consent import why_closed
from bluffside.core.channels.keywords import plain
from bluffside.core.facts import TwoWay
from bluffside.core.terms import CHANNEL_KINDS, PURPOSES, Channel, Purpose
from bluffside.server.events.counting import touch
from bluffside.server.events.stream import WORLD, Cause, Happened, listen, record
from bluffside.server.messaging import correspondence, words
from bluffside.server.messaging.links import COUNTED_FOR
from bluffside.server.messaging.models import AnsweredBy, Link, Message, Reply
from bluffside.server.messaging.outbox import Draft, about, queue
from bluffside.server.messaging.parcels import read_key
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import account_facts, load_contacts
from bluffside.server.people.services import BadContact, add_contact, contact_at, set_consent
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.walls import within
from bluffside.server.wake import wake

LONGEST_KEYWORD = 40


class CannotSend(ValueError):
    """Why a message cannot go to this contact, or cannot be changed any more, in words."""


@transaction.atomic
def write_to(
    contact: Contact,
    channel: TwoWay,
    text: str,
    by: Person,
    subject: str = "",
    later: timedelta = timedelta(),  # it cannot be changed
) -> Message:
    """A message a person writes to one contact, at once or so much later. Raises CannotSend."""
    account = contact.account
    facts = load_contacts(account, [contact.id])[contact.id]
    if closed := why_closed(facts.contact, channel, "service", facts.account.care, clock.now()):
        raise CannotSend(f"{contact.name} cannot be reached by {channel}: {closed}.")
    if channel in connections.switched_off(account, "channel"):
        raise CannotSend(f"{connections.label('channel', channel)}: switched off under Set-up, Connections.")
    text = text.replace("\0", "").strip()
    if not text:
        raise CannotSend("There are no words to send.")
    subject = subject or (f"From {account.name}" if CHANNEL_KINDS[channel].headed else "")
    draft = Draft(
        contact.id, f"by-hand:{uuid.uuid4()}", channel, "service", facts.contact.address(channel), text[:10_000],
        subject=subject, by=by,
    )  # fmt: skip
    queue(account, [draft], later)
    message = Message.objects.get(account=account, key=draft.key)
    record(account, [_sent(message, Cause(actor=by))])
    return message


def _sent(message: Message, cause: Cause) -> Happened:
    return Happened("message.sent", message.contact_id, about(message), cause)


# ---- what people of the team decide


@transaction.atomic
def let_go(message: Message, by: Person, goes: datetime | None = None) -> None:
    """Sends a held message, now or at an instant. Raises CannotSend when it is not held any more."""
    row = _in_state(message, Message.State.HELD)
    row.state, row.next_try_at = Message.State.QUEUED, goes or clock.now()
    row.save(update_fields=["state", "next_try_at"])
    cause = Cause(actor=by, enrolment_id=row.enrolment_id)
    told = Happened("message.let_go", row.contact_id, _held_at(row) | {"goes": row.next_try_at}, cause)
    listen(row.account, [told.kind])
    record(row.account, [told, _sent(row, cause)])
    wake("deliver")


def _held_at(row: Message) -> dict[str, Any]:
    """The line and the round of a workflow that hold a message."""
    round = row.key.rpartition(":")[2]
    return about(row, step=row.step, round=int(round) if round.isdecimal() else 0)


@transaction.atomic
def drop(message: Message, by: Person) -> None:
    """A held message is not sent. Raises CannotSend."""
    row = _in_state(message, Message.State.HELD)
    _drop([row], f"not let go by {by.name}", by)


def _drop(rows: Sequence[Message], why: str, by: Person | None = None) -> None:
    """Held messages are not to go: the lines that hold them go on without."""
    for row in rows:
        row.state, row.reason, row.settled_at = Message.State.CANCELLED, why, clock.now()
        row.save(update_fields=["state", "reason", "settled_at"])
        listen(row.account, ["message.dropped"])
        cause = Cause(actor=by, enrolment_id=row.enrolment_id)
        record(row.account, [Happened("message.dropped", row.contact_id, _held_at(row), cause)])


@transaction.atomic
def settle_uncertain(message: Message, did: Literal["arrived", "send_again"], by: Person) -> None:
    """Somebody found out what became of a message of which nobody knew. Raises CannotSend."""
    row = _in_state(message, Message.State.UNCERTAIN)
    if did == "arrived":
        row.state, row.reason, row.settled_at = Message.State.DELIVERED, f"it arrived, says {by.name}", clock.now()
    else:
        row.state, row.reason, row.handed_at, row.next_try_at = Message.State.QUEUED, "", None, clock.now()
        wake("deliver")
    row.save(update_fields=["state", "reason", "settled_at", "handed_at", "next_try_at"])
    touch(row.account_id, [row.pk])


def _in_state(message: Message, state: Message.State) -> Message:
    row = Message.objects.select_for_update(of=("self",)).select_related("account").get(id=message.id)
    if row.state != state:
        raise CannotSend(f"This message is {row.state} already.")
    return row


# ---- what carriers report


@dataclass(frozen=True, slots=True)
class Receipt:
    """What the carrier says became of the message it knows by a key. `bounced`: there is nobody at the address."""

    key: str
    state: Literal["delivered", "failed", "bounced"]
    reason: str
    at: datetime


def take_receipts(receipts: Sequence[Receipt]) -> None:
    """Writes down receipts. Doubled, late and out-of-order ones change nothing: the first for a message holds."""
    by_account: dict[int, dict[str, Receipt]] = defaultdict(dict)
    for receipt in receipts:
        if found := read_key(receipt.key):
            by_account[found[0]].setdefault(found[1], receipt)
    for account in Account.objects.filter(id__in=by_account).select_related("responsible"):
        with within(account), transaction.atomic():
            _take(account, by_account[account.id])


def _take(account: Account, receipts: dict[str, Receipt]) -> None:
    open_states = (Message.State.SENDING, Message.State.SENT, Message.State.UNCERTAIN)
    found = Message.objects.filter(account=account, key__in=receipts, state__in=open_states).order_by("id")
    messages = list(found.select_for_update())
    happened = []
    for message in messages:
        receipt = receipts[message.key]
        state = Message.State.DELIVERED if receipt.state == "delivered" else Message.State.FAILED
        message.state, message.reason = state, receipt.reason[:300]
        message.settled_at = receipt.at
        message.sent_at = message.sent_at or receipt.at
        cause = Cause(enrolment_id=message.enrolment_id)
        data = about(message, reason=message.reason)
        happened.append(Happened(f"message.{receipt.state}", message.contact_id, data, cause))
    Message.objects.bulk_update(messages, ["state", "reason", "settled_at", "sent_at"], batch_size=1_000)
    for channel in {message.channel for message in messages}:
        gone = [m.contact_id for m in messages if m.channel == channel and receipts[m.key].state == "bounced"]
        if gone:
            reached = Contact.objects.filter(id__in=gone).exclude(exhausted__contains=[channel])
            reached.update(exhausted=Func(F("exhausted"), Value(channel), function="array_append"))
    record(account, happened)


@transaction.atomic
def take_reply(
    account: Account,
    channel: TwoWay,
    address: str,
    text: str,
    key: str,
    message: Message | None = None,
    automatic: bool = False,
    subject: str = "",
) -> Reply | None:
    """What a contact wrote to the account; None when nobody there has that email address, or it is known already.

    `message` is the one it answers, where that is known; by text, the last one they were sent. Who answers a message
    from another address than it went to is still who got it. Words that opt out or
    in act here, at once, before any workflow hears of the reply. An automatic answer is kept, and nobody hears it.
    """
    text = text.replace("\0", "")
    contact = contact_at(account, channel, address) or (message.contact if message else None)
    typed = CHANNEL_KINDS[channel].keywords
    if contact is None and typed and not automatic:
        contact = _stranger(account, address, text)
    if contact is None:
        return None
    heard = meant(text, account_facts(account).care)
    said = "" if automatic else keyword(heard)
    likely = not automatic and is_likely_opt_out(heard)
    # A word of the channel is answered by what it does, unless something is asked besides.
    by_word = said in ("out", "in") and not asks_too(heard)
    if message is None and typed:
        message = contact.messages.filter(channel=channel, sent_at__isnull=False).order_by("-sent_at", "-id").first()
    now = clock.now()
    reply, new = Reply.objects.get_or_create(
        account=account,
        key=key,
        defaults={
            "contact": contact,
            "channel": channel,
            "text": text[:10_000],
            "message": message,
            "received_at": now,
            "opted_out": said == "out",
            "likely_out": likely,
            "automatic": automatic,
            "settled_at": now if automatic or by_word else None,
            "answered_by": AnsweredBy.WORD if by_word else "",
        },
    )
    if not new:
        return None
    if automatic:
        return reply
    correspondence.heard(contact, reply)
    if likely:
        hold_channels(contact, [*contact.held_channels, channel])
    evidence = f"wrote “{text[:200]}”"
    was_out = said in ("out", "in") and words.is_out(contact, channel)
    if said == "out":
        opt_out(contact, channel, evidence, by_reply=reply.id)
    elif said == "in":
        set_consent(account, [contact.id], channel, True, evidence, by_themselves=True, by_reply=reply.id)
    if typed and (said == "help" or (said and (said == "out") != was_out)):
        words.answer_word(contact, reply, said)
    if said == "help" and typed:  # answered, and no answer to anything we wrote
        correspondence.answered_by(account, AnsweredBy.WORD, [reply.id])
        asked = Happened("help.asked", contact.id, {"channel": channel, "reply": reply.id})
        record(account, [asked, Happened("keyword.texted", contact.id, {"keyword": plain(text)})])
        return reply
    data: dict[str, Any] = {
        "channel": channel,
        "text": text[:2_000],
        "reply": reply.id,
        "message": message.name if message else "",
    }
    if message and message.enrolment_id:
        data["enrolment"] = message.enrolment_id
    if subject:
        data["subject"] = subject[:500]
    happened = [Happened("reply.received", contact.id, data)]
    if typed and len(text) <= LONGEST_KEYWORD and plain(text):
        happened.append(Happened("keyword.texted", contact.id, {"keyword": plain(text)}))
    record(account, happened)
    return reply


def _stranger(account: Account, number: str, text: str) -> Contact | None:
    """Who texts the account from a number that nobody there has becomes a contact, so that a word texted in after a
    poster was read is not lost; None for what is no number, and for who only says stop."""
    if keyword(meant(text, account_facts(account).care)) == "out":
        return None
    try:
        return add_contact(account, {"mobile": number}, how=f"by texting “{text[:60]}”")
    except BadContact:
        return None


@transaction.atomic
def opt_out(
    contact: Contact, channel: Channel, evidence: str, purposes: Sequence[Purpose] = PURPOSES, **more: Any
) -> None:
    """Stops everything to this contact on this channel, or what serves some purposes, whatever waits in the outbox included."""
    set_consent(contact.account, [contact.id], channel, False, evidence, purposes=purposes, **more)
    waiting = Message.objects.filter(contact=contact, channel=channel, answers_word=False, purpose__in=purposes)
    held = waiting.filter(state=Message.State.HELD).select_related("account").select_for_update(of=("self",))
    _drop(list(held), "opted out")
    waiting.filter(state=Message.State.QUEUED).update(
        state=Message.State.CANCELLED, reason="opted out", settled_at=clock.now()
    )


@transaction.atomic
def ask_for_quiet(contact: Contact, weeks: int, cause: Cause = WORLD) -> None:
    """The contact asks for quiet for so many weeks, or (0) wants to hear again. Marketing in the outbox waits with it, and
    what waits at its line in a workflow hears of it."""
    account, before = contact.account, contact.paused_until
    until = clock.now() + timedelta(weeks=weeks) if weeks else None
    contact.paused_until = until
    contact.save(update_fields=["paused_until"])
    waiting = Message.objects.filter(account=account, contact=contact, state=Message.State.QUEUED, purpose="marketing")
    if until:
        waiting.filter(next_try_at__lt=until).update(next_try_at=until)
    elif before:
        waiting.filter(next_try_at=before).update(next_try_at=clock.now())
        wake("deliver")
    listen(account, ["quiet.changed"])
    record(account, [Happened("quiet.changed", contact.id, {"until": until.isoformat() if until else ""}, cause)])


def hold_channels(contact: Contact, channels: Iterable[str]) -> None:
    """Marketing on these channels waits until somebody has looked at what the contact wrote there."""
    contact.held_channels = sorted(set(channels))
    contact.save(update_fields=["held_channels"])


@transaction.atomic
def click(message_id: int, number: int, robot: bool = False) -> str:
    """Counts a click, a robot's apart; answers where the link leads. Raises Link.DoesNotExist."""
    link = Link.objects.select_related("message__account").get(message_id=message_id, number=number)
    message = link.message
    if robot:
        Link.objects.filter(id=link.id).update(robots=F("robots") + 1)
    elif clock.now() - message.queued_at < COUNTED_FOR:
        Link.objects.filter(id=link.id).update(clicks=F("clicks") + 1)
        record(message.account, [Happened("link.clicked", message.contact_id, about(message, url=link.url), WORLD)])
    return link.url
