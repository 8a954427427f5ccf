"""Hand over: the contact leaves here and goes on in another workflow. What it is about goes along."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.engine.effects import HandOver
from bluffside.core.engine.moves import Leave, Move
from bluffside.core.engine.state import DEEPEST
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Fault, Step, needs, part


class SendOn(Step):
    label = "Hand over"
    finds = ("hand over", "go on in", "next workflow")
    sentence = "Goes on in {workflow}."
    ends = True

    kind: Literal["hand_over"] = "hand_over"
    workflow: str = part("workflow", "workflow", default="", max_length=120)

    def begin(self, turn: Turn) -> Move:
        depth = turn.state.depth + 1
        if depth > DEEPEST:
            turn.because("Not handed over to “{}”: {} workflows have led here, one by another.", self.workflow, DEEPEST)
            return Leave("too many workflows in a chain")
        turn.do(HandOver(*turn.key, self.workflow, depth, dict(turn.about)))
        turn.because("Goes on in “{}”.", self.workflow)
        return Leave(f"handed over to “{self.workflow}”")

    def brings(self) -> Iterator[tuple[str, str]]:
        yield "workflow.handed_over", self.workflow

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.workflow, "workflow-empty", "No workflow to go on in is named yet.")
