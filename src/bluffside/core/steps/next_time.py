"""Next time: the next moment of a rule that repeats, written as RFC 5545 writes it ("FREQ=WEEKLY;BYDAY=TU").

Computed in local time, as section 3.3.10 says of rules with a time zone; a local time that a clock change
touches is read as section 3.3.5 says. The rule is counted from the day of joining.
"""

from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Literal

from pydantic import field_validator

from bluffside.core.engine.turn import Setting
from bluffside.core.steps.base import Fault, part
from bluffside.core.steps.timed import NINE, Aim, Timed, is_to_come
from bluffside.core.timing.clock_times import ClockTime
from bluffside.core.timing.local import to_instant, to_local
from bluffside.core.timing.recurrence import in_words, next_of, parse_rule


class NextTime(Timed):
    label = "Next time"
    finds = ("next time", "every", "next")
    sentence = "At {at} the next time of {rule}."

    kind: Literal["next_time"] = "next_time"
    rule: str = part("rule", "rule", default="FREQ=WEEKLY;BYDAY=TU", max_length=200)
    at: ClockTime = part("time", "time of day", default=NINE)

    @field_validator("rule")
    @classmethod
    def _can_be_read(cls, rule: str) -> str:
        if rule:
            parse_rule(rule)
        return rule

    def said(self) -> str:
        return f"Next time at {self.at:%H:%M}: {in_words(self.rule) if self.rule else '…'}"

    def stands_for(self) -> dict[str, str]:
        return {"rule": in_words(self.rule)} if self.rule else {}

    def can_be_past(self) -> bool:
        return False

    def may_leave_out(self) -> bool:
        return True  # a rule may come to its end

    def nothing_to_aim_at(self) -> str:
        return "The rule has come to its end, so what follows is left out"

    def aim(self, reached: datetime, setting: Setting) -> Aim | None:
        if not self.rule:
            return None
        joined = to_local(setting.joined or reached, setting.zone).date()
        start = datetime.combine(joined, self.at)
        found = next_of(self.rule, start, to_local(reached, setting.zone) - timedelta(seconds=1))
        while found is not None and not is_to_come(to_instant(found, setting.zone), reached, setting):
            found = next_of(self.rule, start, found)
        if found is None:
            return None
        return Aim(to_instant(found, setting.zone), f"the next time of {in_words(self.rule)}", fixed=False)

    def faults(self) -> Iterator[Fault]:
        if not self.rule:
            yield Fault("rule-empty", "error", "No rule is named yet.")
