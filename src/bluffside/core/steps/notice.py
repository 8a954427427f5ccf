"""Notice: tell members of the team, in the application or by email. The workflow goes on at once."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.engine.effects import Notify
from bluffside.core.engine.turn import Turn
from bluffside.core.messages.merge import faults
from bluffside.core.steps.base import Fault, OneAct, needs, part
from bluffside.core.steps.for_member import Assign, who_gets_it


class Notice(OneAct):
    label = "Notice"
    finds = ("notice", "tell", "inform", "alert")
    sentence = "Tells {assign}: {text}"

    kind: Literal["notice"] = "notice"
    assign: Assign = part("assign", "who is told", default=Assign())
    text: str = part("line", "what", default="", max_length=1_000)
    by: Literal["app", "email", "both"] = part(
        "choice",
        "how",
        words={"app": "here", "email": "by email", "both": "here and by email"},
        clause="{}",
        default="app",
    )

    def act(self, turn: Turn) -> None:
        assignee, text = self.assign.assignee(turn), turn.render(self.text)
        turn.do(Notify(*turn.key, text, assignee, self.by))
        turn.because("Told {}: “{}”.", who_gets_it(assignee, turn), text)

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.text, "notice-empty", "The notice has no words yet.")
        for fault in faults(self.text):
            yield Fault("notice-unreadable", "error", f"The notice {fault}.")
        if fault := self.assign.fault():
            yield Fault("assign-nobody", "error", fault)
