"""What steps for people of the team share: a task on somebody's list, due when the business is open, and the
workflow goes on. A later line can wait for its outcome (see wait_for.py).
"""

from collections.abc import Iterator
from datetime import datetime
from typing import ClassVar, Literal

from pydantic import Field

from bluffside.core.document_part import DocumentPart
from bluffside.core.engine.effects import Assignee, MakeTask, TaskKind
from bluffside.core.engine.turn import Turn
from bluffside.core.messages.merge import faults
from bluffside.core.steps.base import Fault, OneAct, part
from bluffside.core.words import several


class Assign(DocumentPart):
    """Who gets it: the responsible member, whoever caused the enrolment (who moved the deal), the owner of the deal it is about (of
    both, else the responsible member), a named member, or the named ones in turn."""

    to: Literal["responsible", "causer", "owner", "member", "in_turn"] = "responsible"
    members: tuple[str, ...] = Field(default=(), max_length=50)

    def describe(self) -> str:
        named = several(list(self.members), "and") or "…"
        return {
            "responsible": "the responsible member",
            "causer": "whoever caused it",
            "owner": "the owner of the deal",
            "member": named,
            "in_turn": f"{named} in turn",
        }[self.to]

    def assignee(self, turn: Turn) -> Assignee:
        if self.to == "causer":
            by = turn.state.by
            return Assignee("member", (by,)) if by else Assignee()
        if self.to == "owner":
            deal = turn.facts.contact.deal(turn.about.get("deal", ""))
            return Assignee("member", (deal.owner,)) if deal and deal.owner else Assignee()
        return Assignee(self.to, self.members)

    def fault(self) -> str:
        return "It names no member yet." if self.to in ("member", "in_turn") and not self.members else ""


def who_gets_it(assignee: Assignee, turn: Turn) -> str:
    """The assignee in words, as far as it is known now."""
    if assignee.to == "responsible":
        return turn.facts.member.name or "the team"
    return several(list(assignee.members), "or")


CONTACTS: frozenset[TaskKind] = frozenset({"call", "letter"})  # what reaches the contact; the rest is the team's own


class ForMember(OneAct):
    who = "member"
    task: ClassVar[TaskKind]
    called: ClassVar[str]

    assign: Assign = part("assign", "who gets it", clause="by {}", default=Assign())

    def words(self) -> tuple[str, str]:
        """Its title, and what to say or what it says."""
        raise NotImplementedError

    def attempt(self) -> tuple[int, str]:
        """How often to try, and what to do on the last attempt."""
        return 1, ""

    def due(self, turn: Turn) -> datetime:
        """When the team can do it; a call, when somebody may be rung, too."""
        return turn.setting.next_call(turn.now) if self.task == "call" else turn.setting.team_is_there(turn.now)

    def act(self, turn: Turn) -> None:
        if self.task in CONTACTS and turn.facts.contact.do_not_contact:
            turn.because("Passed over the {} “{}”: not to be contacted.", self.called, turn.render(self.words()[0]))
            return
        title, say = (turn.render(text) for text in self.words())
        assignee, due = self.assign.assignee(turn), self.due(turn)
        attempts, last = self.attempt()
        later = due if due > turn.now else None
        turn.do(MakeTask(*turn.key, self.task, title, say, attempts, last, assignee, later))
        listed = "Put on the list of {}: {} “{}”"
        if later:
            why = (
                "nobody is to be rung before"
                if turn.setting.team_is_there(turn.now) <= turn.now
                else "closed until then"
            )
            turn.because(listed + ", due {}: {}.", who_gets_it(assignee, turn), self.called, title, due, why)
        else:
            turn.because(listed + ".", who_gets_it(assignee, turn), self.called, title)

    def faults(self) -> Iterator[Fault]:
        for text in self.words():
            for fault in faults(text):
                yield Fault("task-unreadable", "error", f"What the line says {fault}.")
        if fault := self.assign.fault():
            yield Fault("assign-nobody", "error", fault)
