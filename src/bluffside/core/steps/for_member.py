"""What steps for the responsible member share: a task on the team's list, and the workflow goes on."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.engine.effects import MakeTask
from bluffside.core.engine.turn import Turn
from bluffside.core.messages.merge import faults
from bluffside.core.steps.base import Fault, OneAct


class ForMember(OneAct):
    def task(self) -> tuple[Literal["call", "to_do"], str, str, int]:
        """What it is, its title, what to say, how often to try."""
        raise NotImplementedError

    def act(self, turn: Turn) -> None:
        task, title, say, attempts = self.task()
        turn.do(MakeTask(*turn.key, task, turn.render(title), turn.render(say), attempts))
        who = turn.facts.member.name or "the team"
        turn.because(f"Put on the list of {who}: {'call' if task == 'call' else 'to-do'} “{turn.render(title)}”.")

    def faults(self) -> Iterator[Fault]:
        _, title, say, _ = self.task()
        for text in (title, say):
            for fault in faults(text):
                yield Fault("task-unreadable", "error", f"What the line says {fault}.")
