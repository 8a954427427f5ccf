"""Wait: so long after the line before, or until a time of day after so many days."""

from datetime import datetime, time, timedelta
from typing import Literal

from pydantic import field_serializer

from bluffside.core.engine.moves import Move, Stay
from bluffside.core.engine.turn import Setting, Turn
from bluffside.core.steps.base import Step, part
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.local import at_time, to_local


class Wait(Step):
    """With `at`, a wait of days, weeks or months ends at that local time on the day it leads to; a wait
    of minutes or hours ends at the first such time after it. Without, it ends exactly that long after."""

    label = "Wait"
    finds = ("wait", "pause", "later", "after")
    sentence = "Waits {duration}, then goes on at {at}."
    waits = "time"

    kind: Literal["wait"] = "wait"
    duration: Duration = part("duration", "how long", default=Duration(1, "day"))
    at: time | None = part("time", "time of day", empty="once", default=None)

    @field_serializer("at")
    def _to_minutes(self, value: time | None) -> str | None:
        return value.strftime("%H:%M") if value else None

    def past(self, at: datetime, setting: Setting) -> datetime:
        end = self.duration.after(at, setting.zone)
        if self.at is None:
            return end
        day = to_local(end, setting.zone).date()
        target = at_time(day, self.at, setting.zone)
        if target < (end if self.duration.is_exact else at):
            target = at_time(day + timedelta(days=1), self.at, setting.zone)
        return target

    def begin(self, turn: Turn) -> Move:
        until = self.past(turn.now, turn.setting)
        turn.because(f"Waits {self.duration}, until {turn.local(until)}.")
        return Stay(until)
