"""Letter to print: a member prints it, signs it and posts it."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.channel_kinds.letter import LetterMessage
from bluffside.core.steps.base import Fault, needs, part
from bluffside.core.steps.for_member import ForMember


class PrintLetter(ForMember):
    label = "Letter to print"
    finds = ("print", "letter to print", "sign")
    sentence = "Has {letter} printed and posted."
    task = "letter"
    called = "letter to print"
    speaks = "letter"

    kind: Literal["print_letter"] = "print_letter"
    letter: LetterMessage = part("message", "letter", default=LetterMessage())

    def words(self) -> tuple[str, str]:
        return self.letter.name or "Letter", self.letter.body

    def faults(self) -> Iterator[Fault]:
        yield from super().faults()
        yield from needs(self.letter.body, "message-empty", "The letter has no words yet.")
