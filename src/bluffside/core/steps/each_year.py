"""Each year: the next time a yearly date comes round, a fixed one or that of a field (a birthday).

29 February is said plainly: in other years it is kept on the 28th, on 1 March, or left out, as chosen.
"""

from collections.abc import Iterator
from datetime import date as Day
from datetime import datetime
from typing import Literal

from bluffside.core.conditions import Need
from bluffside.core.engine.moves import Move
from bluffside.core.engine.turn import Setting, Turn
from bluffside.core.events import Event
from bluffside.core.steps.base import Fault, part
from bluffside.core.steps.timed import NINE, Aim, Timed, is_to_come
from bluffside.core.timing.clock_times import ClockTime
from bluffside.core.timing.clock_times import Day as CalendarDay
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.timing.yearly import LEAP_DAYS, LEAP_WORDS, LeapDay, in_year, leap_words, why_kept
from bluffside.core.words import day as day_words


class EachYear(Timed):
    """`date` fixes a day (its year does not matter); else `field` names the contact's field that holds it."""

    label = "Each year"
    finds = ("each year", "every year", "birthday", "anniversary")
    sentence = "The next {field} {date} of a year, at {at} {feb_29}."

    kind: Literal["each_year"] = "each_year"
    field: str = part("field", "field with a date", empty="", default="", max_length=80)
    date: CalendarDay | None = part("date", "day of the year", only={"field": ("",)}, default=None)
    at: ClockTime = part("time", "time of day", default=NINE)
    feb_29: LeapDay = part("choice", "29 February in other years", only=LEAP_DAYS, default="feb_28", words=LEAP_WORDS)

    def said(self) -> str:
        day = self.field or (f"{self.date.day} {self.date:%B}" if self.date else "…")
        return f"On the next {day}, at {self.at:%H:%M} {leap_words(self.date, self.feb_29)}".rstrip()

    def can_be_past(self) -> bool:
        return False

    def may_leave_out(self) -> bool:
        return True

    def goes_by(self) -> str:
        return self.field

    def nothing_to_aim_at(self) -> str:
        return f"There is no date in the field “{self.field}”, so what follows is left out"

    def _day(self, setting: Setting) -> Day | None:
        day = setting.contact.fields.get(self.field) if self.field else self.date
        return day if isinstance(day, Day) else None

    def aim(self, reached: datetime, setting: Setting) -> Aim | None:
        day = self._day(setting)
        if day is None:
            return None
        year = to_local(reached, setting.zone).year
        for ahead in range(10):
            kept = in_year(day, year + ahead, self.feb_29)
            if kept is None:
                continue
            at = at_time(kept, self.at, setting.zone)
            if is_to_come(at, reached, setting):
                words = f"{day_words(kept)}, the day of the year of {self.field or 'the date'}"
                why = why_kept(day, kept, year, self.feb_29)
                return Aim(at, words, fixed=False, why=(why,) if why else ())
        return None

    def notice(self, turn: Turn, event: Event) -> Move | None:
        """Computes the time again when the field has changed."""
        if event.kind != "field.changed" or event.data.get("field") != self.field or not self.field:
            return None
        turn.because("{} has changed: the time is computed again.", self.field)
        return self.begin(turn)

    def hears(self) -> frozenset[str]:
        return frozenset({"field.changed"}) if self.field else frozenset()

    def needs(self) -> frozenset[Need]:
        return frozenset({"fields"}) if self.field else frozenset()

    def faults(self) -> Iterator[Fault]:
        if not self.field and self.date is None:
            yield Fault("date-empty", "error", "Neither a day of the year nor a field is named yet.")
