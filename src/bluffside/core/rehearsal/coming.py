"""What comes for a contact by time alone: a date, an appointment that is near, a score that fades below a mark.

A rehearsal expects these ahead, and looks again when the moment is there: what has moved meanwhile does not come.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from bluffside.core.events import Event
from bluffside.core.facts import Contact
from bluffside.core.scoring.sheet import changed_event
from bluffside.core.triggers import Trigger
from bluffside.core.triggers.appointment_near import AppointmentNear
from bluffside.core.triggers.date_comes import DateComes
from bluffside.core.triggers.score_crossed import ScoreCrossed

# Which events can move what a kind of trigger goes by.
MOVED_BY: dict[type[Trigger], tuple[str, ...]] = {
    DateComes: ("field.changed",),
    AppointmentNear: ("appointment.booked", "appointment.moved"),
    ScoreCrossed: ("score.changed",),
}
SHORT = timedelta(seconds=1)


@dataclass(frozen=True, slots=True)
class Coming:
    """A trigger whose moment comes for a contact; `appointment` is the id of the one that is near."""

    contact: str
    trigger: DateComes | AppointmentNear | ScoreCrossed
    appointment: str = ""


def by_time_alone(triggers: Sequence[Trigger]) -> list[DateComes | AppointmentNear | ScoreCrossed]:
    """Those of the triggers whose moment may come without anything happening."""
    return [one for one in triggers if isinstance(one, DateComes | AppointmentNear | ScoreCrossed)]


def expected(
    contact: Contact, trigger: DateComes | AppointmentNear | ScoreCrossed, after: datetime, zone: str
) -> Iterator[tuple[datetime, Coming]]:
    """The next moments of a trigger for a contact, after an instant."""
    match trigger:
        case DateComes():
            if at := trigger.next_after(contact, after, zone):
                yield at, Coming(contact.id, trigger)
        case AppointmentNear():
            for one in contact.appointments:
                if (at := trigger.comes_at(one, zone)) and at >= after:
                    yield at, Coming(contact.id, trigger, one.id)
        case ScoreCrossed(way="falls_below", mark=mark, score=score):
            if at := contact.score.crosses(mark, after, score):
                yield at + SHORT, Coming(contact.id, trigger)


def event_of(coming: Coming, contact: Contact, at: datetime, zone: str) -> Event | None:
    """What happens when the moment is there; None when it is not due any more."""
    match coming.trigger:
        case DateComes() as trigger:
            return trigger.event(at) if trigger.next_after(contact, at - SHORT, zone) == at else None
        case AppointmentNear() as trigger:
            one = contact.appointment(coming.appointment)
            return trigger.event(one, at) if one and trigger.comes_at(one, zone) == at else None
        case ScoreCrossed(mark=mark, score=score):
            old, new = contact.score.at(at - 2 * SHORT, score), contact.score.at(at, score)
            return changed_event(score, old, new, at) if new < mark <= old else None
