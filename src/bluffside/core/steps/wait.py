"""Wait: so long after the line before, or until a time of day after so many days."""

from datetime import datetime, timedelta
from functools import cached_property
from typing import Literal

from bluffside.core.engine.moves import Move, Stay
from bluffside.core.engine.turn import Setting, Turn
from bluffside.core.steps.base import Span, When, part
from bluffside.core.steps.timed import Aim, Timed
from bluffside.core.timing.clock_times import ClockTime
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.local import at_time, to_local


class Wait(Timed):
    """With `at`, a wait of days, weeks or months ends at that local time on the day it leads to; a wait
    of minutes or hours ends at the first such time after it. Without, it ends exactly that long after."""

    label = "Wait"
    finds = ("wait", "pause", "later", "after")
    sentence = "Waits {duration}."
    when_past = "next_day"

    kind: Literal["wait"] = "wait"
    duration: Duration = part("duration", "how long", default=Duration(1, "day"))
    at: ClockTime | None = part("time", "time of day", empty="once", clause="then goes on at {}", default=None)

    def said(self) -> str:
        return super().said() + (f", then goes on at {self.at:%H:%M}" if self.at else "")

    def can_be_past(self) -> bool:
        """Only when no day lies between: the time of day may have passed today."""
        return self.at is not None and self.duration.amount == 0

    def end(self, reached: datetime, zone: str) -> datetime:
        """When it ends, whatever the day."""
        end = self.duration.after(reached, zone)
        if self.at is None:
            return end
        day = to_local(end, zone).date()
        target = at_time(day, self.at, zone)
        if self.duration.is_exact and target < end and self.duration.amount:
            target = at_time(day + timedelta(days=1), self.at, zone)
        return target

    def aim(self, reached: datetime, setting: Setting) -> Aim:
        end = self.end(reached, setting.zone)
        since = setting.joined or reached
        day = (to_local(end, setting.zone).date() - to_local(since, setting.zone).date()).days
        at = f" at {self.at:%H:%M}" if self.at else ""
        return Aim(end, f"{self.duration} after the line before, which is day {day}{at}", fixed=False)

    @cached_property
    def _plain(self) -> bool:
        """Whether it ends on the day it leads to, whatever day that is."""
        return len(self.weekdays) == 7 and not self.skip_holidays and not self.can_be_past()

    def begin(self, turn: Turn) -> Move:
        if not self._plain:
            return super().begin(turn)
        turn.deadline = None
        until = self.end(turn.now, turn.zone) if self.at else self.duration.after(turn.now, turn.zone)
        turn.because("Waits {}, until {}.", self.duration, until)
        return Stay(until)

    def when(self, reached: Span, setting: Setting) -> When:
        if not self._plain:
            return super().when(reached, setting)
        acts = Span(self.end(reached.earliest, setting.zone), self.end(reached.latest, setting.zone))
        return When(acts, acts)
