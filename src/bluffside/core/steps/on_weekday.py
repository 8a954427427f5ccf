"""On a weekday: goes on when one of some weekdays begins for the contact, so that a series begins on a Monday."""

from datetime import datetime, timedelta
from typing import Literal

from bluffside.core.engine.turn import Setting
from bluffside.core.steps.base import part
from bluffside.core.steps.timed import NINE, Aim, Timed
from bluffside.core.timing.clock_times import ClockTime
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.timing.weekdays import NAMES, Weekdays
from bluffside.core.words import several


class OnWeekday(Timed):
    """Today counts, as long as the time of day has not passed; when it has, `if_past` says."""

    label = "On a weekday"
    finds = ("on monday", "on weekday", "begin on", "weekday")
    sentence = "On the next {weekdays} at {at}."
    picks_days = True
    when_past = "next_day"

    kind: Literal["on_weekday"] = "on_weekday"
    weekdays: Weekdays = part("weekdays", "on which weekdays", default=("mon",))
    at: ClockTime = part("time", "time of day", default=NINE)

    def said(self) -> str:
        return f"On the next {several([NAMES[day] for day in self.weekdays], 'or')} at {self.at:%H:%M}"

    def days_words(self) -> str:
        return ""

    def aim(self, reached: datetime, setting: Setting) -> Aim:
        today = to_local(reached, setting.zone).date()
        at = at_time(today, self.at, setting.zone)
        taken = at == reached and setting.later_pass
        if taken or self._why_not_on(today, setting):
            at = at_time(today + timedelta(days=1), self.at, setting.zone)
        return Aim(at, f"begins on {' or '.join(day.capitalize() for day in self.weekdays)}", fixed=False)
