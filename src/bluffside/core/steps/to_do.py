"""To-do: something for the responsible member to do. The workflow goes on at once."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.steps.base import Fault, needs, part
from bluffside.core.steps.for_member import ForMember


class ToDo(ForMember):
    label = "To-do"
    finds = ("to-do", "todo", "task", "remind")
    sentence = "Has to: {title}"
    who = "member"

    kind: Literal["to_do"] = "to_do"
    title: str = part("line", "what to do", default="", max_length=200)

    def task(self) -> tuple[Literal["to_do"], str, str, int]:
        return "to_do", self.title, "", 1

    def faults(self) -> Iterator[Fault]:
        yield from super().faults()
        yield from needs(self.title, "to-do-empty", "It does not say yet what to do.")
