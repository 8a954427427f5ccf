"""On a day: day N from joining, at a time of day where the contact is. Joining is day 0."""

from datetime import datetime, timedelta
from typing import Literal

from bluffside.core.engine.turn import Setting
from bluffside.core.steps.base import part
from bluffside.core.steps.timed import NINE, Aim, Timed
from bluffside.core.timing.clock_times import ClockTime
from bluffside.core.timing.local import at_time, to_local


class OnDay(Timed):
    label = "On day …"
    finds = ("on day", "day", "day mark")
    sentence = "On day {day} at {at}."
    when_past = "next_day"
    comes_once = True

    kind: Literal["on_day"] = "on_day"
    day: int = part("count", "days after joining", default=1, ge=0, le=3_650)
    at: ClockTime = part("time", "time of day", default=NINE)

    def aim(self, reached: datetime, setting: Setting) -> Aim:
        joined = to_local(setting.joined or reached, setting.zone).date()
        at = at_time(joined + timedelta(days=self.day), self.at, setting.zone)
        return Aim(at, f"day {self.day} at {self.at:%H:%M}")
