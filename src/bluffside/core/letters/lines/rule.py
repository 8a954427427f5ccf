"""A rule across the letter."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.letters.line import LetterLine
from bluffside.core.letters.sheet import Sheet


class RuleLine(LetterLine):
    label = "rule"
    finds = ("rule", "divide")

    kind: Literal["rule"] = "rule"

    def mjml(self, sheet: Sheet) -> str:
        return '<mj-divider css-class="rule" border-width="1px" border-color="#d9dcd8" />'

    def html(self) -> str:
        return "<p>----------</p>"

    def texts(self) -> Iterator[str]:
        yield from ()

    @property
    def is_empty(self) -> bool:
        return False
