"""On a date: a day of the calendar, the same for everyone. Who comes later gets only what is still to come."""

from collections.abc import Iterator
from datetime import date as Day
from datetime import datetime
from typing import Literal

from bluffside.core.engine.turn import Setting
from bluffside.core.steps.base import Fault, part
from bluffside.core.steps.timed import NINE, Aim, Timed
from bluffside.core.timing.clock_times import ClockTime
from bluffside.core.timing.local import at_time
from bluffside.core.timing.words import day as day_words


class OnDate(Timed):
    label = "On a date"
    finds = ("on date", "on the", "date")
    sentence = "On {date} at {at}."
    when_past = "leave_out"

    kind: Literal["on_date"] = "on_date"
    date: Day | None = part("date", "date", default=None)
    at: ClockTime = part("time", "time of day", default=NINE)

    def aim(self, reached: datetime, setting: Setting) -> Aim | None:
        if self.date is None:
            return None
        return Aim(at_time(self.date, self.at, setting.zone), f"{day_words(self.date)} at {self.at:%H:%M}")

    def faults(self) -> Iterator[Fault]:
        if self.date is None:
            yield Fault("date-empty", "error", "No date is named yet.")
