"""HTML from elsewhere: a mail that somebody has already, or a piece of one. A letter of this line alone is that mail, under no head of ours."""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from bluffside.core.document_part import part
from bluffside.core.letters.line import LetterLine
from bluffside.core.letters.pasted import for_words, safe
from bluffside.core.letters.sheet import Sheet

LONGEST = 200_000  # characters


class PastedLine(LetterLine):
    label = "pasted HTML"
    sentence = "{html_as_pasted}"
    finds = ("html", "pasted", "paste")

    kind: Literal["pasted"] = "pasted"
    html_as_pasted: Annotated[str, Field(max_length=LONGEST)] = part("html", "HTML", default="")

    def mjml(self, sheet: Sheet) -> str:
        padding = "0" if sheet.bare else "6px 24px"
        return f'<mj-text css-class="ink" padding="{padding}">{sheet.pasted(self.html_as_pasted)}</mj-text>'

    def html(self) -> str:
        return f"<div>{for_words(safe(self.html_as_pasted))}</div>"

    def texts(self) -> Iterator[str]:
        yield safe(self.html_as_pasted)

    def faults(self) -> Iterator[str]:
        if self.html_as_pasted.strip() and not safe(self.html_as_pasted):
            yield "Nothing of the pasted HTML can stand in a mail."
