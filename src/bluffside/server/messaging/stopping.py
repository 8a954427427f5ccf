"""One stop: all sending of an account is stopped by one deliberate act, and lifted by another.

while it is stopped   nothing is handed to a carrier, whoever wrote it; lines that speak hold what they would send
                      (core.steps.speaking), and what comes into the outbox is held there. What a carrier has taken before
                      cannot be called back
before it is live     (`trying_out`) the same holds for whoever is not of its own team
while a channel is    what comes into the outbox by it is held there (`hold_switched_off`)
switched off
when it is lifted     what fell due meanwhile stays, and is decided upon: here what lies in the outbox, in
                      workflows/held_back.py who stands at a line
"""

from collections.abc import Callable, Collection, Sequence
from datetime import datetime
from typing import NamedTuple

from django.db import transaction
from django.db.models import Count, Min, QuerySet

from bluffside.core.facts import Contact
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.outbox import HELD_BACK, NOT_LIVE, STOPPED, SWITCHED_OFF, about
from bluffside.server.practice import audit, clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.team import addresses_of
from bluffside.server.wake import wake

State = Message.State


class CannotStop(ValueError):
    """In words."""


class HeldMessages(NamedTuple):
    """Messages of one name by one channel that were in the outbox when sending was stopped, or came in while it was."""

    name: str
    channel: str
    how_many: int
    since: datetime


@transaction.atomic
def stop(account: Account, why: str, by: Person) -> int:
    """Answers how many messages are held by it. Raises CannotStop when it is stopped already."""
    row = Account.objects.select_for_update().get(id=account.id)
    if row.stopped_at:
        raise CannotStop(f"Sending is stopped already, by {row.stopped_by.name if row.stopped_by else 'somebody'}.")
    row.stopped_at, row.stopped_by, row.stopped_why = clock.now(), by, " ".join(why.split())[:200]
    row.save(update_fields=["stopped_at", "stopped_by", "stopped_why"])
    account.stopped_at = row.stopped_at
    audit.note(row, by, "account", [audit.Noted("sending", "", f"stopped: {row.stopped_why}")])
    record(account, [Happened("sending.stopped", None, {"why": row.stopped_why}, Cause(actor=by))])
    return _hold(account)


@transaction.atomic
def lift(account: Account, by: Person) -> None:
    """What fell due stays where it is until it is decided upon. Raises CannotStop when it is not stopped."""
    row = Account.objects.select_for_update().get(id=account.id)
    if not row.stopped_at:
        raise CannotStop("Sending is not stopped.")
    if row.archived_at:
        raise CannotStop("The account is put away. Bring it back first.")
    _hold(account)  # what a batch put into the outbox while it was being stopped
    row.stopped_at = row.stopped_by = account.stopped_at = None
    row.stopped_why = ""
    row.save(update_fields=["stopped_at", "stopped_by", "stopped_why"])
    audit.note(row, by, "account", [audit.Noted("sending", "stopped", "lifted")])
    record(account, [Happened("sending.lifted", None, {}, Cause(actor=by))])


def is_stopped(account: Account) -> bool:
    """As it stands now, not as it was when the account was read."""
    return Account.objects.filter(id=account.id, stopped_at__isnull=False).exists()


def why_held(account: Account) -> Callable[[Contact], str] | None:
    """Why nothing of it goes out to a contact, in words, empty where it does; None where it goes out to everybody."""
    if account.stopped_at:
        return lambda _: "all sending is stopped"
    if not account.trying_out:
        return None
    team = addresses_of(account)
    return lambda contact: "" if {contact.email, contact.mobile} & team else NOT_LIVE


@transaction.atomic
def go_live(account: Account, by: Person) -> None:
    """From now on messages reach everybody; what was held meanwhile stays until it is decided upon. Raises CannotStop."""
    row = Account.objects.select_for_update().get(id=account.id)
    if not row.trying_out:
        raise CannotStop("The account is live already.")
    hold_but_for_the_team(row)  # what a batch put into the outbox meanwhile
    row.trying_out = account.trying_out = False
    row.live_since = account.live_since = clock.now()
    row.save(update_fields=["trying_out", "live_since"])
    audit.note(row, by, "account", [audit.Noted("the account", "tried out", "live")])
    record(row, [Happened("account.live", None, {}, Cause(actor=by))])


def hold_but_for_the_team(account: Account) -> int:
    """What is in the outbox of an account that is not live, for an address that is none of its team's (any more)."""
    due = Message.objects.filter(account=account, state=State.QUEUED)
    return due.exclude(address__in=addresses_of(account)).update(state=State.HELD, reason=NOT_LIVE)


def hold_switched_off(account: Account, channels: Collection[str]) -> int:
    """What is in the outbox for channels that somebody has switched off."""
    due = Message.objects.filter(account=account, state=State.QUEUED, channel__in=channels)
    return due.update(state=State.HELD, reason=SWITCHED_OFF)


def _hold(account: Account) -> int:
    return Message.objects.filter(account=account, state=State.QUEUED).update(state=State.HELD, reason=STOPPED)


# ---- what lies in the outbox


def held_messages(account: Account) -> list[HeldMessages]:
    rows = _held(account).values("name", "channel").annotate(n=Count("id"), since=Min("queued_at"))
    return [HeldMessages(one["name"], one["channel"], one["n"], one["since"]) for one in rows.order_by("since", "name")]


def some_held(account: Account, name: str, channel: str, most: int) -> Sequence[Message]:
    return list(_held(account).filter(name=name, channel=channel).select_related("account").order_by("id")[:most])


def _held(account: Account) -> QuerySet[Message]:
    return Message.objects.filter(account=account, state=State.HELD, reason__in=HELD_BACK)


@transaction.atomic
def decide(account: Account, goes_at: dict[int, datetime | None], by: Person) -> None:
    """Whether held messages go (at an instant) or not (None), by their ids."""
    now = clock.now()
    rows = list(_held(account).filter(id__in=goes_at).select_for_update())
    happened = []
    for row in rows:
        cause = Cause(actor=by, enrolment_id=row.enrolment_id)
        at = goes_at[row.id]
        if at:
            row.state, row.reason, row.next_try_at, row.paced = State.QUEUED, "", at, False
            happened.append(Happened("sending.decided", row.contact_id, about(row, goes=True), cause))
        else:
            row.state, row.reason, row.settled_at = State.CANCELLED, f"not to go after the stop, says {by.name}", now
            happened.append(Happened("message.cancelled", row.contact_id, about(row, reason=row.reason), cause))
    Message.objects.bulk_update(rows, ["state", "reason", "next_try_at", "paced", "settled_at"])
    record(account, happened)
    wake("deliver")
