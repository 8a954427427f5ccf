"""Choose: lanes by conditions; the first that fits is taken, else the last."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Literal

from bluffside.core.conditions import Condition, Need, TagTest
from bluffside.core.engine.moves import ON, Into, Move
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Fault, Lane, Step, part


class ChoiceLane(Lane):
    """Without a condition it is for everyone whom no lane before it fits."""

    sentence = "{when}"

    when: Condition | None = part("condition", "condition", empty="everyone else", default=None)

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
        case = turn.case
        values = {name: value for lane in self.lanes if lane.when for name, value in lane.when.seen(case).items()}
        for lane in self.lanes:
            if lane.when is None or lane.when.holds(case):
                turn.because("Takes the lane “{}”.", lane.heading(), seen=values)
                return Into(lane.id)
        turn.because("No lane fits, so it goes on below.", seen=values)
        return ON

    def needs(self) -> frozenset[Need]:
        return frozenset().union(*(lane.when.all_needs() for lane in self.lanes if lane.when))

    def covers_all(self) -> bool:
        return any(lane.when is None for lane in self.lanes)

    def dead_lanes(self) -> Mapping[str, str]:
        dead, taken = {}, list[Condition]()
        for index, lane in enumerate(self.lanes):
            if any(before.when is None for before in self.lanes[:index]):
                dead[lane.id] = "“everyone else” stands before it"
            elif lane.when is not None and lane.when in taken:
                dead[lane.id] = "a lane before it has the same condition"
            elif lane.when is not None:
                taken.append(lane.when)
        return dead

    def faults(self) -> Iterator[Fault]:
        if not self.lanes:
            yield Fault("no-lanes", "error", "There is nothing to choose between yet.")
        for lane in self.lanes:
            if lane.when and (missing := lane.when.missing()):
                yield Fault("condition-incomplete", "error", f"A condition is not complete: {missing}.")
