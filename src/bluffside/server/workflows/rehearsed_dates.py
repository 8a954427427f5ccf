"""The appointments of who is rehearsed, and having them moved or cancelled on the way."""

from collections.abc import Sequence
from datetime import datetime, timedelta

from ninja import Schema
from pydantic import Field

from bluffside.core.facts import Facts
from bluffside.core.rehearsal.keeping import some_contact
from bluffside.core.rehearsal.offers import appointment_types
from bluffside.core.rehearsal.scenarios import Happening, event_of, moment_of
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.local import to_local
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.scenario import Act
from bluffside.server.practice.words import moment

AHEAD = timedelta(days=5)  # where an appointment is made up, and how far it moves
LATER = timedelta(days=2)


class MoveIn(Schema):
    """So long from the start the appointment of a type moves to a local time; none: it is cancelled."""

    type: str = Field(max_length=120)
    after: Duration
    to: datetime | None = None

    def act(self, start: datetime, zone: str) -> Act:
        at = to_local(self.after.after(start, zone), zone).replace(tzinfo=None)
        if self.to is None:
            return Act(at=at, cancel=self.type)
        return Act(at=at, move=self.type, start=self.to.replace(tzinfo=None))


class AppointmentOut(Schema):
    """`start` is local time, `when` says it; `later` is a local time it may move to."""

    type: str
    start: str
    when: str
    later: str


class Dates(Schema):
    """`types`: of appointments that the workflow goes by; none: it goes by no appointment. `suggested`: a local time for one
    of somebody who has none."""

    types: list[str]
    appointments: list[AppointmentOut]
    suggested: str


def moved(facts: Facts, start: datetime, moves: Sequence[MoveIn]) -> list[tuple[datetime, Happening, Act]]:
    """What the moves are to the engine, and as a scenario writes them."""
    someone = some_contact(facts.contact, facts.account.zone, start)
    acts = [one.act(start, facts.zone) for one in moves]
    return [(moment_of(act, start, facts.zone), event_of(act, someone, start, facts.zone), act) for act in acts]


def dates(document: Workflow, facts: Facts, start: datetime) -> Dates:
    """What of it a page offers."""
    zone = facts.zone
    return Dates(
        types=list(appointment_types(document)),
        appointments=[
            AppointmentOut(
                type=one.type,
                start=_written(to_local(one.start, zone)),
                when=moment(one.start, zone),
                later=_written(to_local(one.start, zone) + LATER),
            )
            for one in facts.contact.appointments
            if one.to_come
        ],
        suggested=_written((to_local(start, zone) + AHEAD).replace(hour=10, minute=0)),
    )


def _written(local: datetime) -> str:
    return local.replace(tzinfo=None).isoformat(timespec="minutes")
