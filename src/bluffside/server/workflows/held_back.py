"""What fell due while sending was stopped, to be decided upon: people who stand at a line that speaks, and messages that
lay in the outbox. A decision is about all of one line or one message, a part at a time."""

from collections.abc import Sequence
from datetime import datetime
from typing import Literal, NamedTuple

from django.db import transaction
from django.db.models import Count, Exists, Min, OuterRef, QuerySet

from bluffside.core.steps.speaking import DECIDED, Speaking
from bluffside.server import sql
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.messaging import stopping
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import Account, Person
from bluffside.server.workflows.held import goes_at
from bluffside.server.workflows.models import Enrolment, Signal
from bluffside.server.workflows.signals import send
from bluffside.server.workflows.versions import program_of

PART = 500


class HeldBack(NamedTuple):
    """`where`: people "at a line" (then version and place say which), or messages "in the outbox" (then name and channel)."""

    where: Literal["at a line", "in the outbox"]
    workflow: str
    name: str
    how_many: int
    since: datetime
    version: int = 0
    place: str = ""
    channel: str = ""


def held_back(account: Account) -> list[HeldBack]:
    """The longest waiting first."""
    lines = standing(account).values("version_id", "workflow__name", "place")
    found = [
        HeldBack("at a line", row["workflow__name"], _title(row["version_id"], row["place"]), row["n"], row["since"],
                 version=row["version_id"], place=row["place"])
        for row in lines.annotate(n=Count("id"), since=Min("arrived_at"))
    ]  # fmt: skip
    found += [
        HeldBack("in the outbox", "", one.name, one.how_many, one.since, channel=one.channel)
        for one in stopping.held_messages(account)
    ]
    return sorted(found, key=lambda one: one.since)


def decide(account: Account, one: HeldBack, goes: bool, by: Person) -> int:
    """Whether it goes, for a part of those it is about; answers for how many. Raises stopping.CannotStop while sending is
    stopped still."""
    if stopping.is_stopped(account):
        raise stopping.CannotStop("Sending is stopped. Lift that first; until it is decided, nothing of this goes.")
    if account.trying_out:
        raise stopping.CannotStop("The account is not live yet. Until it is, nothing of this goes.")
    if one.where == "in the outbox":
        if goes and one.channel in connections.switched_off(account, "channel"):
            raise stopping.CannotStop(
                f"{connections.label('channel', one.channel)} are switched off. Switch them on first."
            )
        messages = stopping.some_held(account, one.name, one.channel, PART)
        stopping.decide(account, {row.id: goes_at(row) if goes else None for row in messages}, by)
        return len(messages)
    rows = standing(account).filter(version_id=one.version, place=one.place).select_related("workflow")
    return _decide_line(account, list(rows.order_by("id")[:PART]), one.name, goes, by)


@transaction.atomic
def _decide_line(account: Account, rows: Sequence[Enrolment], name: str, goes: bool, by: Person) -> int:
    data = {"goes": goes, "message": name}
    happened = [Happened(DECIDED, row.contact_id, data, Cause(actor=by, enrolment_id=row.id)) for row in rows]
    events = record(account, happened)
    told = (Signal.Kind.HAPPENED, DECIDED, sql.to_json(data | {"by": by.name}), clock.now())
    send(account, [(account.id, row.id, event, *told) for row, event in zip(rows, events, strict=True)])
    return len(rows)


def standing(account: Account) -> QuerySet[Enrolment]:
    """Who stands at a line because of the stop, and has not been decided about."""
    decided = Signal.objects.filter(enrolment_id=OuterRef("id"), event_kind=DECIDED)
    return Enrolment.objects.filter(~Exists(decided), account=account, ended_at=None, rest__contains={"stopped": True})


def _title(version: int, place: str) -> str:
    node = program_of(version).nodes.get(place)
    return node.step.title if node and isinstance(node.step, Speaking) else place
