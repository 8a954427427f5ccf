"""Tests on the moment itself, where the contact is: time of day and weekday."""

from datetime import time
from typing import Literal

from bluffside.core.conditions.base import Case, Test
from bluffside.core.document_part import part
from bluffside.core.timing.clock_times import ClockTime
from bluffside.core.timing.local import to_local
from bluffside.core.timing.weekdays import NAMES, WEEKDAYS, Weekdays, describe_days


class TimeTest(Test):
    """The local time is from `start` (inclusive) to `end` (exclusive); over midnight when the end is the earlier."""

    label = "the time of day"
    sentence = "it is between {start} and {end} where they are"
    test: Literal["time"] = "time"
    start: ClockTime = part("time", "from", default=time(9))
    end: ClockTime = part("time", "to", default=time(17))

    def holds(self, case: Case) -> bool:
        local = to_local(case.now, case.zone).time()
        if self.start <= self.end:
            return self.start <= local < self.end
        return local >= self.start or local < self.end

    def describe(self) -> str:
        return f"it is between {self.start:%H:%M} and {self.end:%H:%M} where they are"

    def seen(self, case: Case) -> dict[str, str]:
        return {"local time": f"{to_local(case.now, case.zone):%H:%M}"}


class WeekdayTest(Test):
    """It is one of these weekdays where the contact is."""

    label = "the weekday"
    sentence = "it is {weekdays} where they are"
    test: Literal["weekday"] = "weekday"
    weekdays: Weekdays = part("weekdays", "weekdays", default=WEEKDAYS[:5])

    def holds(self, case: Case) -> bool:
        return WEEKDAYS[to_local(case.now, case.zone).weekday()] in self.weekdays

    def describe(self) -> str:
        return f"it is {describe_days(self.weekdays)} where they are"

    def seen(self, case: Case) -> dict[str, str]:
        return {"weekday": NAMES[WEEKDAYS[to_local(case.now, case.zone).weekday()]]}
