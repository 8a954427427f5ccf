"""To-do: something for a member to do. The workflow goes on at once."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.steps.base import Fault, needs, part
from bluffside.core.steps.for_member import ForMember


class ToDo(ForMember):
    label = "To-do"
    finds = ("to-do", "todo", "task", "remind")
    sentence = "Has to: {title}"
    task = "to_do"
    called = "to-do"

    kind: Literal["to_do"] = "to_do"
    title: str = part("line", "what to do", default="", max_length=200)

    def words(self) -> tuple[str, str]:
        return self.title, ""

    def faults(self) -> Iterator[Fault]:
        yield from super().faults()
        yield from needs(self.title, "to-do-empty", "It does not say yet what to do.")
