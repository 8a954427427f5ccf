"""List: put the contact on a list of the account, or take it off."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.engine.effects import SetList
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Fault, OneAct, needs, part


class ChangeList(OneAct):
    label = "List"
    finds = ("list", "add to list", "take off list")
    sentence = "Puts them {way} the list {list}."

    kind: Literal["set_list"] = "set_list"
    way: Literal["on", "off"] = part("choice", "on or off", default="on")
    list: str = part("list", "list", default="", max_length=80)

    def act(self, turn: Turn) -> None:
        on = self.way == "on"
        was = self.list in turn.facts.contact.lists
        turn.do(SetList(*turn.key, self.list, on))
        if was == on:
            turn.because("Was {} the list “{}” already.", self.way, self.list)
        else:
            turn.because("Put {} the list “{}”.", self.way, self.list)

    def brings(self) -> Iterator[tuple[str, str]]:
        yield "list.joined" if self.way == "on" else "list.left", self.list

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.list, "list-empty", "No list is named yet.")
