"""Owner: who of the team is responsible for the contact from here on."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.engine.effects import SetOwner
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Fault, OneAct, part
from bluffside.core.steps.for_member import Assign, who_gets_it


class ChangeOwner(OneAct):
    label = "Responsible member"
    finds = ("responsible", "assign", "owner")
    sentence = "Makes {assign} responsible."

    kind: Literal["owner"] = "owner"
    assign: Assign = part("assign", "who", default=Assign(to="in_turn"))

    def act(self, turn: Turn) -> None:
        assignee = self.assign.assignee(turn)
        turn.do(SetOwner(*turn.key, assignee))
        turn.because("Made {} responsible.", who_gets_it(assignee, turn))

    def faults(self) -> Iterator[Fault]:
        if fault := self.assign.fault():
            yield Fault("assign-nobody", "error", fault)
