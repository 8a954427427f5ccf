"""Around a date: so long before or after an appointment, or a date in one of the contact's fields.

It follows the appointment or the field: when that moves, what is said relative to it is planned anew (engine.replanning). A time before is moved
to an earlier allowed day or hour, never to a later one, and what follows never comes after what it reminds of.
"""

from collections.abc import Iterator
from datetime import date, datetime
from typing import Literal

from bluffside.core.conditions import Need
from bluffside.core.engine.moves import Move
from bluffside.core.engine.turn import Setting, Turn
from bluffside.core.events import Event
from bluffside.core.steps.base import Fault, Mend, part
from bluffside.core.steps.timed import NINE, Aim, IfPast, Timed
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.words import moment

MOVES = ("appointment.booked", "appointment.moved", "appointment.cancelled")


class Around(Timed):
    """`field` names a field with a date; empty: the appointment the enrolment is about, else the next one of
    `type`. With `at`, that time of day on the day so computed; without, exactly so long from the start."""

    label = "Before or after"
    finds = ("before", "after the appointment", "remind", "around")
    sentence = "{offset} {side} {field} {type}."
    comes_once = True
    follows = True

    kind: Literal["around"] = "around"
    offset: Duration = part("duration", "how long", default=Duration(2, "day"))
    side: Literal["before", "after"] = part("choice", "before or after", default="before")
    field: str = part("field", "field with a date", empty="the appointment", default="", max_length=80)
    type: str = part("appointment", "type of appointment", empty="", default="", max_length=120)

    def said(self) -> str:
        what = self.goes_by()
        offset = f"{self.offset} {self.side} {what}" if self.offset.amount else f"On the day of {what}"
        return f"{offset}, at {self.at:%H:%M}" if self.at else offset

    @property
    def past_rule(self) -> IfPast:
        return self.if_past or ("leave_out" if self.side == "before" else "go_on")

    def goes_by(self) -> str:
        return self.field or (f"the {self.type}" if self.type else "the appointment")

    def nothing_to_aim_at(self) -> str:
        what = f"no date in the field “{self.field}”" if self.field else "no appointment to come"
        return f"There is {what}, so what follows is left out"

    def planned_by(self, setting: Setting) -> str:
        if self.field:
            return f"field:{self.field}"
        appointment = setting.appointment(self.type)
        return f"appointment:{appointment.id}" if appointment else ""

    def starts(self, setting: Setting) -> datetime | None:
        """The instant it is reckoned from."""
        if not self.field:
            appointment = setting.appointment(self.type)
            return appointment.start if appointment and appointment.to_come else None
        day = setting.contact.fields.get(self.field)
        return at_time(day, self.at or NINE, setting.zone) if isinstance(day, date) else None

    def aim(self, reached: datetime, setting: Setting) -> Aim | None:
        start = self.starts(setting)
        if start is None:
            return None
        before = self.side == "before"
        at = self.offset.before(start, setting.zone) if before else self.offset.after(start, setting.zone)
        if self.at:
            at = at_time(to_local(at, setting.zone).date(), self.at, setting.zone)
            if before and at > start:
                at = start
        what = self.field or "the appointment"
        words = f"{self.offset} {self.side} {what} on {moment(start, setting.zone, reached)}"
        return Aim(at, words, back=before, deadline=start if before and not self.field else None)

    def notice(self, turn: Turn, event: Event) -> Move | None:
        """Computes the time again when what it goes by has moved, or is gone."""
        if self.field:
            concerns = event.kind == "field.changed" and event.data.get("field") == self.field
        else:
            about = turn.about.get("appointment", "")
            same = not about or event.data.get("appointment") == about
            concerns = event.kind in MOVES and same
        if not concerns:
            return None
        turn.because("{} has changed: the time is computed again.", self.field or "The appointment")
        return self.begin(turn)

    def hears(self) -> frozenset[str]:
        return frozenset({"field.changed"}) if self.field else frozenset(MOVES)

    def needs(self) -> frozenset[Need]:
        return frozenset({"fields"}) if self.field else frozenset({"appointments"})

    def may_leave_out(self) -> bool:
        return True

    def faults(self) -> Iterator[Fault]:
        if self.field and self.type:
            mend = Mend("Go by the field alone", "set", "type", "")
            yield Fault("around-both", "error", "It goes by a field and by an appointment; choose one of them.", mend)
