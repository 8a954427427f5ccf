"""Own task: any kind of work the account has a name for ("site visit"), with what to know."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.steps.base import Fault, needs, part
from bluffside.core.steps.for_member import ForMember


class OwnTask(ForMember):
    label = "Task of your own"
    finds = ("own task", "visit", "work")
    sentence = "Asks for {title}."
    task = "custom"
    called = "task"

    kind: Literal["own_task"] = "own_task"
    title: str = part("line", "what it is", default="", max_length=200)
    say: str = part("text", "what to know", default="", max_length=4_000)

    def words(self) -> tuple[str, str]:
        return self.title, self.say

    def faults(self) -> Iterator[Fault]:
        yield from super().faults()
        yield from needs(self.title, "task-empty", "What is to be done is not written yet.")
