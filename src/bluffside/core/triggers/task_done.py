"""Task done: a call, to-do or other task is finished, with one of some outcomes or with any."""

from typing import Literal

from bluffside.core.conditions import Condition, EventTest
from bluffside.core.document_part import part
from bluffside.core.events import Event
from bluffside.core.triggers.base import Names, Trigger


class TaskDone(Trigger):
    """`step` is the id of the line that asked for the task; empty: any task. Outcomes are the team's own words
    ("reached", "left_message", "no_answer")."""

    label = "when a task is done"
    sentence = "when the task of {step} is done: {outcomes}"
    listens_to = ("task.done",)
    subject_field = "step"

    kind: Literal["task_done"] = "task_done"
    step: str = part("step", "line that asked for it", empty="any line", default="", max_length=40)
    outcomes: Names = part("words", "outcomes", empty="any outcome", default=())

    def fits(self, event: Event) -> bool:
        return super().fits(event) and (not self.outcomes or event.data.get("outcome") in self.outcomes)

    def already(self) -> Condition | None:
        return None if self.outcomes else EventTest(event="task.done", about=self.step, within=None)
