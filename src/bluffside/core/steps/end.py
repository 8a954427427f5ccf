"""End: the contact leaves the workflow here."""

from typing import Literal

from bluffside.core.engine.moves import Leave, Move
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Step

BY_A_LINE = "ended by a line of the script"


class End(Step):
    label = "End"
    finds = ("end", "stop here", "leave", "finish")
    sentence = "Ends here."
    ends = True

    kind: Literal["end"] = "end"

    def begin(self, turn: Turn) -> Move:
        turn.because("Ends here.")
        return Leave(BY_A_LINE)
