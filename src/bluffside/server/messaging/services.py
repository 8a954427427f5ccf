"""Writes on messages: queueing, receipts, replies, opting out, clicks."""

import uuid
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from django.db import transaction
from django.db.models import F

from bluffside.core.channels.consent import why_closed
from bluffside.core.channels.keywords import is_opt_out
from bluffside.core.facts import TwoWay
from bluffside.server.events.stream import WORLD, Cause, Happened, record
from bluffside.server.messaging.models import Link, Message, Reply
from bluffside.server.messaging.parcels import make_links
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import load_facts
from bluffside.server.people.services import set_consent
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake


class CannotSend(ValueError):
    """Why a message cannot go to this contact, in words."""


def queue(messages: Sequence[Message]) -> None:
    """Puts messages into the outbox, in the transaction at hand. A key that is there already is left as it is."""
    if not messages:
        return
    make_links(messages)
    known = set(Message.objects.filter(key__in=[one.key for one in messages]).values_list("key", flat=True))
    fresh = [message for message in messages if message.key not in known]
    Message.objects.bulk_create(fresh)
    Link.objects.bulk_create([link for message in fresh for link in message.new_links])  # type: ignore[attr-defined]
    wake("deliver")


@transaction.atomic
def write_to(contact: Contact, channel: TwoWay, text: str, by: Person, subject: str = "") -> Message:
    """A message a person writes to one contact, at once. Raises CannotSend."""
    facts = load_facts([contact.id])[contact.id]
    if closed := why_closed(facts.contact, channel):
        raise CannotSend(f"{contact.name} cannot be reached by {channel}: {closed}.")
    if not text.strip():
        raise CannotSend("There are no words to send.")
    now = clock.now()
    message = Message(
        account=contact.account,
        contact=contact,
        key=f"by-hand:{uuid.uuid4()}",
        channel=channel,
        address=facts.contact.address(channel),
        name="",
        subject=subject or (f"From {contact.account.name}" if channel == "email" else ""),
        body=text.strip()[:10_000],
        by=by,
        next_try_at=now,
        queued_at=now,
    )
    queue([message])
    return message


@dataclass(frozen=True, slots=True)
class Receipt:
    """What the carrier says became of the message it knows by a key."""

    key: str
    state: Literal["delivered", "failed"]
    reason: str
    at: datetime


@transaction.atomic
def take_receipts(receipts: Sequence[Receipt]) -> None:
    """Writes down receipts. Doubled, late and out-of-order ones change nothing: the first for a message holds."""
    first: dict[str, Receipt] = {}
    for receipt in receipts:
        first.setdefault(receipt.key, receipt)
    open_states = (Message.State.SENDING, Message.State.SENT)
    found = Message.objects.filter(key__in=first, state__in=open_states).select_related("account").order_by("id")
    messages = list(found.select_for_update(of=("self",)))
    happened: dict[Account, list[Happened]] = defaultdict(list)
    for message in messages:
        receipt = first[message.key]
        message.state, message.reason = Message.State(receipt.state), receipt.reason[:300]
        message.settled_at = receipt.at
        message.sent_at = message.sent_at or receipt.at
        data = {"channel": message.channel, "name": message.name, "message": message.id, "reason": message.reason}
        cause = Cause(enrolment_id=message.enrolment_id)
        happened[message.account].append(Happened(f"message.{receipt.state}", message.contact_id, data, cause))
    Message.objects.bulk_update(messages, ["state", "reason", "settled_at", "sent_at"])
    for account, of_account in happened.items():
        record(account, of_account)


@transaction.atomic
def take_reply(account: Account, channel: TwoWay, address: str, text: str, key: str) -> Reply | None:
    """What a contact wrote to the account; None when nobody there has that address, or it is known already.

    Opt-out words act here, at once, before any workflow hears of the reply.
    """
    field = "mobile" if channel == "text" else "email"
    contact = Contact.objects.filter(account=account, **{field: address}).first()
    if contact is None:
        return None
    reply, new = Reply.objects.get_or_create(
        key=key,
        defaults={
            "account": account,
            "contact": contact,
            "channel": channel,
            "text": text[:10_000],
            "received_at": clock.now(),
            "opted_out": is_opt_out(text),
        },
    )
    if not new:
        return None
    if reply.opted_out:
        opt_out(contact, channel, f"wrote “{text[:200]}”")
    data = {"channel": channel, "text": text[:2_000], "reply": reply.id}
    record(account, [Happened("reply.received", contact.id, data)])
    return reply


@transaction.atomic
def opt_out(contact: Contact, channel: TwoWay, evidence: str) -> None:
    """Stops everything to this contact on this channel, whatever waits in the outbox included."""
    set_consent(contact.account, [contact.id], channel, False, evidence)
    Message.objects.filter(contact=contact, channel=channel, state=Message.State.QUEUED).update(
        state=Message.State.CANCELLED, reason="opted out", settled_at=clock.now()
    )


def settle_reply(reply: Reply, by: Person) -> None:
    if reply.settled_at is None:
        reply.settled_at, reply.settled_by = clock.now(), by
        reply.save(update_fields=["settled_at", "settled_by"])


@transaction.atomic
def click(code: str) -> str:
    """Counts a click; answers where the link leads. Raises Link.DoesNotExist."""
    link = Link.objects.select_related("message__account").get(code=code)
    Link.objects.filter(id=link.id).update(clicks=F("clicks") + 1)
    message = link.message
    data = {"url": link.url, "name": message.name, "message": message.id}
    record(message.account, [Happened("link.clicked", message.contact_id, data, WORLD)])
    return link.url
