"""Choose: lanes by conditions; the first that fits is taken, else the last."""

from collections.abc import Iterator, Sequence
from typing import Literal

from bluffside.core.conditions import Condition, TagTest
from bluffside.core.engine.moves import Into, Move, On
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Fault, Lane, Step, part


class ChoiceLane(Lane):
    """Without a condition it is for everyone whom no lane before it fits."""

    when: Condition | None = part("condition", "condition", default=None)

    def heading(self) -> str:
        return self.when.describe() if self.when else "everyone else"


class Choose(Step):
    label = "Choose"
    finds = ("choose", "if", "decide", "branch")
    sentence = "Goes the first way that fits."
    divides = True

    kind: Literal["choose"] = "choose"
    lanes: tuple[ChoiceLane, ...] = ()

    @classmethod
    def blank(cls) -> "Choose":
        return cls(id="new", lanes=(ChoiceLane(id="new-1", when=TagTest()), ChoiceLane(id="new-2")))

    def lanes_below(self) -> Sequence[Lane]:
        return self.lanes

    def begin(self, turn: Turn) -> Move:
        contact = turn.facts.contact
        values = {name: value for lane in self.lanes if lane.when for name, value in lane.when.seen(contact).items()}
        for lane in self.lanes:
            if lane.when is None or lane.when.holds(contact):
                turn.because(f"Takes the lane “{lane.heading()}”.", values)
                return Into(lane.id)
        turn.because("No lane fits, so it goes on below.", values)
        return On()

    def covers_all(self) -> bool:
        return any(lane.when is None for lane in self.lanes)

    def faults(self) -> Iterator[Fault]:
        if not self.lanes:
            yield Fault("no-lanes", "error", "There is nothing to choose between yet.")
        for lane in self.lanes[:-1]:
            if lane.when is None:
                yield Fault(
                    "lane-unreachable", "error", "“Everyone else” stands before other lanes: they are never taken."
                )
        for lane in self.lanes:
            if lane.when and "“”" in lane.when.describe():
                yield Fault("condition-incomplete", "error", f"A condition is not complete: {lane.when.describe()}.")
