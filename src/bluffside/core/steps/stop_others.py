"""Stop others: the contact leaves other workflows, those that are named or all of them, and stays in this one."""

from typing import Literal

from bluffside.core.engine.effects import StopOthers
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import OneAct, part
from bluffside.core.words import several


class EndOthers(OneAct):
    label = "Stop others"
    finds = ("stop others", "take out of", "end others")
    sentence = "Takes them out of {workflows}."

    kind: Literal["stop_others"] = "stop_others"
    workflows: tuple[str, ...] = part("workflows", "workflows", empty="all other workflows", default=())

    def act(self, turn: Turn) -> None:
        turn.do(StopOthers(*turn.key, self.workflows))
        named = several([f"“{one}”" for one in self.workflows])
        turn.because("Taken out of {}.", named or "all other workflows")
