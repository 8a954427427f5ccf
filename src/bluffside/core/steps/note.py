"""Note: words for the team in the contact's timeline."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.engine.effects import AddNote
from bluffside.core.engine.turn import Turn
from bluffside.core.messages.merge import faults
from bluffside.core.steps.base import Fault, OneAct, needs, part


class Note(OneAct):
    label = "Note"
    finds = ("note", "write down", "remember")
    sentence = "Notes “{text}”"

    kind: Literal["note"] = "note"
    text: str = part("line", "note", default="", max_length=2_000)

    def act(self, turn: Turn) -> None:
        turn.do(AddNote(*turn.key, turn.render(self.text)))
        turn.because("Wrote a note in the timeline.")

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.text, "note-empty", "The note has no words yet.")
        for fault in faults(self.text):
            yield Fault("note-unreadable", "error", f"The note {fault}.")
