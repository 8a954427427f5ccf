"""On a date: a day of the calendar, the same for everyone. Who comes after that day gets only what is still to come;
for who comes on the day, when the time of day has passed, `if_past` says."""

from collections.abc import Iterator
from datetime import datetime
from typing import Literal

from bluffside.core.engine.turn import Setting
from bluffside.core.steps.base import Fault, part
from bluffside.core.steps.timed import IF_PAST, NINE, Aim, Timed
from bluffside.core.timing.clock_times import ClockTime, Day
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.words import day as day_words


class OnDate(Timed):
    label = "On a date"
    finds = ("on date", "on the", "date")
    sentence = "On {date} at {at}."
    comes_once = True

    kind: Literal["on_date"] = "on_date"
    date: Day | None = part("date", "date", default=None)
    at: ClockTime = part("time", "time of day", default=NINE)

    def aim(self, reached: datetime, setting: Setting) -> Aim | None:
        if self.date is None:
            return None
        return Aim(at_time(self.date, self.at, setting.zone), f"{day_words(self.date)} at {self.at:%H:%M}")

    def is_gone(self, at: datetime, reached: datetime, setting: Setting) -> bool:
        return to_local(at, setting.zone).date() < to_local(reached, setting.zone).date()

    def past_words(self) -> str:
        return f"later that day {IF_PAST[self.past_rule]}, and after that day {IF_PAST['leave_out']}"

    def may_leave_out(self) -> bool:
        return True

    def faults(self) -> Iterator[Fault]:
        if self.date is None:
            yield Fault("date-empty", "error", "No date is named yet.")
