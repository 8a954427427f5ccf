"""Whom messages come from: addresses, each confirmed by a code before it is used, and numbers; which is usual for what; and what
each has done lately. The one usual for service is kept in the account, too, where everything finds it."""

import secrets
from datetime import timedelta
from typing import Any, NamedTuple

from django.db import transaction
from django.db.models import Count, Q

from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import PURPOSES, Channel
from bluffside.core.workflow.document import walk
from bluffside.server.messaging import domains
from bluffside.server.messaging.models import Message, Reply, Sender
from bluffside.server.messaging.parcels import sort_of
from bluffside.server.people import addresses
from bluffside.server.practice import audit, clock, staff_mail
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.refusals import BadFields
from bluffside.server.practice.sealing import CannotUnseal, seal, unseal
from bluffside.server.set_up.depending import Named, Published

CODE_HOLDS = timedelta(hours=1)
MOST_TRIES = 5
LATELY = timedelta(days=30)
MOST = 50  # senders of an account


class Done(NamedTuple):
    """In the last 30 days."""

    sent: int
    arrived: int
    failed: int
    answers: int


def adopt(account: Account, by: Person | None = None) -> None:
    """Those that stand in the account alone become senders; they were used before, so they count as confirmed."""
    ones: list[tuple[Channel, str, str]] = [
        ("email", account.sender_email, account.sender_name),
        ("text", account.text_number, account.name),
    ]
    for channel, address, shown in ones:
        known = Sender.objects.filter(account=account, channel=channel, address__iexact=address)
        if not address or known.exists():
            continue
        taken = {usual for one in account.senders.filter(channel=channel) for usual in one.usual_for}
        Sender.objects.create(
            account=account,
            channel=channel,
            name=_free_name(account, channel, address),
            address=address,
            shown_as=shown if channel == "email" else "",
            usual_for=[one for one in PURPOSES if one not in taken],
            confirmed_at=clock.now(),
        )


def _free_name(account: Account, channel: str, address: str) -> str:
    names = set(account.senders.filter(channel=channel).values_list("name", flat=True))
    return address if address not in names else f"{address} ({secrets.token_hex(2)})"


@transaction.atomic
def add(account: Account, channel: Channel, address: str, shown_as: str, by: Person) -> Sender:
    """An address is mailed a code, and used once that came back; a number is used at once. The first of its sort is usual.
    Raises BadFields."""
    try:
        read = addresses.email(address) if channel == "email" else addresses.mobile(address, account.region)
    except ValueError as error:
        raise BadFields({"address": f"{error}."}) from None
    if not read:
        raise BadFields({"address": "Which one?"})
    Account.objects.select_for_update().get(id=account.id)
    if account.senders.count() >= MOST:
        raise BadFields({"address": f"An account has {MOST} senders at most."})
    if account.senders.filter(channel=channel, address__iexact=read).exists():
        raise BadFields({"address": "It is there already."})
    made = Sender.objects.create(
        account=account,
        channel=channel,
        name=_free_name(account, channel, read),
        address=read,
        shown_as=_line(shown_as),
        confirmed_at=None if channel == "email" else clock.now(),
    )
    audit.note(account, by, "senders", [audit.Noted(read, "", "added")])
    if channel == "email":
        send_code(made)
    else:
        _usual_if_first(made)
    return made


def send_code(one: Sender) -> None:
    code = f"{secrets.randbelow(10**6):06}"
    one.code_sealed, one.code_until, one.code_tries = seal(code), clock.now() + CODE_HOLDS, 0
    one.save(update_fields=["code_sealed", "code_until", "code_tries"])
    staff_mail.write(
        one.address,
        f"The code for {one.account.name}: {code}",
        f"Somebody wants messages of {one.account.name} to come from {one.address}. If that is right, type this code there "
        f"within an hour: {code}\n\nIf not, do nothing: nothing goes out from this address.",
    )


def confirm(one: Sender, code: str, by: Person) -> None:
    """Raises BadFields. Counted outside of what is undone with a refusal, so that nobody tries on."""
    with transaction.atomic():
        row = Sender.objects.select_for_update().get(id=one.id)
        row.code_tries += 1
        row.save(update_fields=["code_tries"])
        try:
            sent = unseal(row.code_sealed)
        except CannotUnseal:
            sent = ""
        late = row.code_until is None or row.code_until < clock.now() or row.code_tries > MOST_TRIES
        fits = bool(sent) and secrets.compare_digest(sent.encode(), code.strip().encode())
    if not sent or late:
        raise BadFields({"code": "This code has run out. Have another one sent."})
    if not fits:
        raise BadFields({"code": "That is not the code that was sent."})
    with transaction.atomic():
        row.confirmed_at, row.code_sealed, row.code_until = clock.now(), "", None
        row.save(update_fields=["confirmed_at", "code_sealed", "code_until"])
        audit.note(row.account, by, "senders", [audit.Noted(row.address, "not confirmed", "confirmed")])
        _usual_if_first(row)
        domains.of(row.account, domains.domain_of(row.address))


def _usual_if_first(one: Sender) -> None:
    taken = {usual for other in one.account.senders.filter(channel=one.channel) for usual in other.usual_for}
    _be_usual(one, [purpose for purpose in PURPOSES if purpose not in taken])


def _be_usual(one: Sender, purposes: list[str]) -> None:
    """It, and no other, is usual for these; the account knows which is usual for service."""
    if not purposes:
        return
    for other in one.account.senders.filter(channel=one.channel, usual_for__overlap=purposes).exclude(id=one.id):
        other.usual_for = [purpose for purpose in other.usual_for if purpose not in purposes]
        other.save(update_fields=["usual_for"])
    one.usual_for = [purpose for purpose in PURPOSES if purpose in {*one.usual_for, *purposes}]
    one.save(update_fields=["usual_for"])
    _copy(one)


def _copy(one: Sender) -> None:
    """What the account itself says of the one that is usual for service."""
    if "service" not in one.usual_for:
        return
    kept = {"text_number": one.address}
    if one.channel == "email":
        kept = {"sender_email": one.address, "sender_name": one.shown_as or one.account.name}
    Account.objects.filter(id=one.account_id).update(**kept)


@transaction.atomic
def change(one: Sender, given: dict[str, Any], by: Person, workflows: Published) -> None:
    """`given`: name, shown_as, reply_to, one_way, usual_for. Raises BadFields."""
    noted, faults = [], {}
    for field, words in (("shown_as", "shown as"), ("reply_to", "answers go to"), ("name", "called")):
        if field not in given:
            continue
        value = _line(given[field])
        if field == "reply_to":
            try:
                value = addresses.email(value)
            except ValueError as error:
                faults["reply_to"] = f"{error}."
                continue
        if field == "name":
            if not value:
                faults["name"] = "What do lines call it?"
                continue
            if one.account.senders.filter(channel=one.channel, name=value).exclude(id=one.id).exists():
                faults["name"] = "Another one is called that."
                continue
            if value != one.name and (users := using(one, workflows)):
                faults["name"] = f"{users[0].name} names it in a line: it keeps its name."
                continue
        if value != getattr(one, field):
            noted.append(audit.Noted(f"{one.address}: {words}", str(getattr(one, field)), value))
            setattr(one, field, value)
    if faults:
        raise BadFields(faults)
    if "one_way" in given and bool(given["one_way"]) != one.one_way:
        one.one_way = bool(given["one_way"])
        ways = ("people can answer it", "nobody can answer it")
        noted.append(audit.Noted(one.address, ways[not one.one_way], ways[one.one_way]))
    one.save()
    _copy(one)
    wanted = [purpose for purpose in given.get("usual_for", []) if purpose in PURPOSES and purpose not in one.usual_for]
    if wanted:
        if not one.confirmed_at:
            raise BadFields({"usual_for": "It is usual once it is confirmed."})
        _be_usual(one, wanted)
        noted.append(audit.Noted(f"the usual sender for {' and '.join(wanted)}", "", one.address))
    if noted:
        audit.note(one.account, by, "senders", noted)


@transaction.atomic
def remove(one: Sender, by: Person, workflows: Published) -> None:
    """Raises BadFields while it is usual for something, or a published line names it."""
    if one.usual_for:
        raise BadFields(
            {"sender": f"It is the usual one for {' and '.join(one.usual_for)}: let another be that first."}
        )
    if users := using(one, workflows):
        raise BadFields({"sender": f"{users[0].name} names it in a line."})
    audit.note(one.account, by, "senders", [audit.Noted(one.address, "there", "taken away")])
    one.delete()


def using(one: Sender, workflows: Published) -> list[Named]:
    """Published workflows with a line that names it."""
    return [
        named
        for named, document in workflows.items()
        if any(
            isinstance(step, Speaking)
            and getattr(step, "sender", "") == one.name
            and any(sort_of(channel) == one.channel for channel in step.versions())
            for step in walk(document.steps)
        )
    ]


def lately(account: Account) -> dict[int, Done]:
    """What each sender has done in 30 days, by its id; what named none counts for the one that is usual now."""
    since = clock.now() - LATELY
    rows = list(account.senders.all())
    named = {(one.channel, one.name): one.id for one in rows}
    usual = {(one.channel, purpose): one.id for one in rows for purpose in one.usual_for}
    found = {one.id: [0, 0, 0, 0] for one in rows}
    sent = (
        Message.objects.filter(account=account, sent_at__gte=since)
        .order_by()
        .values_list("channel", "sender", "purpose")
        .annotate(
            total=Count("id"),
            arrived=Count("id", filter=Q(state=Message.State.DELIVERED)),
            failed=Count("id", filter=Q(state=Message.State.FAILED)),
        )
    )
    answered = (
        Reply.objects.filter(account=account, received_at__gte=since, message__isnull=False)
        .order_by()
        .values_list("message__channel", "message__sender", "message__purpose")
        .annotate(answers=Count("id"))
    )

    def count(channel: Channel, sender: str, purpose: str, numbers: dict[int, int]) -> None:
        sort = sort_of(channel)
        id = named.get((sort, sender)) if sender else usual.get((sort, purpose))
        if id is not None:
            for at, number in numbers.items():
                found[id][at] += number

    for channel, sender, purpose, total, arrived, failed in sent:
        count(channel, sender, purpose, {0: total, 1: arrived, 2: failed})
    for channel, sender, purpose, answers in answered:
        count(channel, sender, purpose, {3: answers})
    return {id: Done(*numbers) for id, numbers in found.items()}


def _line(text: Any) -> str:
    return " ".join(str(text or "").replace("\0", "").split())
