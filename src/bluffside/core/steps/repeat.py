"""Repeat: the lines in its lane are gone through a bounded number of times, or until a condition holds.

Each pass has a number of its own in the key of what is done, so that each pass sends its own message.
"""

from collections.abc import Iterator, Sequence
from typing import Literal

from pydantic import Field

from bluffside.core.conditions import Condition, Need
from bluffside.core.engine.moves import ON, Into, Move
from bluffside.core.engine.turn import Setting, Turn
from bluffside.core.steps.base import Fault, Lane, Span, Step, When, part

MOST_TIMES = 100


class RepeatedLane(Lane):
    def heading(self) -> str:
        return "each time"


class Repeat(Step):
    """`until` is looked at before each pass; it ends the repeating when it holds."""

    label = "Repeat"
    finds = ("repeat", "again", "times")
    sentence = "Repeats {times} times, or until {until}."
    divides = True
    passes = True

    kind: Literal["repeat"] = "repeat"
    times: int = part("count", "how often", default=3, ge=1, le=MOST_TIMES)
    until: Condition | None = part("condition", "until", empty="all are done", default=None)
    lanes: tuple[RepeatedLane, ...] = Field(default=(), max_length=1)

    @classmethod
    def blank(cls) -> "Repeat":
        return cls(id="new", lanes=(RepeatedLane(id="new-1"),))

    def describe(self) -> str:
        return (
            f"Repeats up to {self.times} times, or until this holds: {self.until.describe()}."
            if self.until
            else f"Repeats {self.times} times."
        )

    def lanes_below(self) -> Sequence[Lane]:
        return self.lanes

    def begin(self, turn: Turn) -> Move:
        """Reached from above, or again from the end of its own lane."""
        inside = bool(turn.loops) and turn.loops[-1][0] == self.id
        done = turn.loops[-1][1] if inside else 0
        outer = turn.loops[:-1] if inside else turn.loops
        if not self.lanes or done >= self.times:
            turn.because("Repeated {} times.", done)
            turn.go_round(outer)
            return ON
        if self.until and self.until.holds(turn.case):
            turn.because("Stops repeating after {}: {}.", done, self.until.describe(), seen=self.until.seen(turn.case))
            turn.go_round(outer)
            return ON
        turn.go_round((*outer, (self.id, done + 1)))
        turn.round += inside
        turn.because("Time {} of {}.", done + 1, self.times)
        return Into(self.lanes[0].id)

    def when(self, reached: Span, setting: Setting) -> When:
        """Of the first pass; the time line goes through the others itself."""
        return When(reached, reached, {lane.id: reached for lane in self.lanes})

    def needs(self) -> frozenset[Need]:
        return self.until.all_needs() if self.until else frozenset()

    def faults(self) -> Iterator[Fault]:
        if not self.lanes or not self.lanes[0].steps:
            yield Fault("repeat-nothing", "error", "There is nothing to repeat yet.")
        if self.until and (missing := self.until.missing()):
            yield Fault("condition-incomplete", "error", f"Its condition is not complete: {missing}.")
