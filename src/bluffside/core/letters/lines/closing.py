"""The closing: the usual signature of whoever is responsible, or words of its own."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.document_part import part
from bluffside.core.letters.line import LetterLine, Words
from bluffside.core.letters.plain import in_html
from bluffside.core.letters.sheet import Sheet

USUAL = "{{ member.signature }}\n{{ account.name }}"


class ClosingLine(LetterLine):
    label = "closing"
    sentence = "{words}"
    finds = ("closing", "signature", "goodbye")

    kind: Literal["closing"] = "closing"
    words: Words = part("rich", "words", empty="the usual one", default="")

    def mjml(self, sheet: Sheet) -> str:
        return f'<mj-text css-class="ink">{sheet.words(self.words or USUAL)}</mj-text>'

    def html(self) -> str:
        return f"<p>{in_html(self.words or USUAL)}</p>"

    def texts(self) -> Iterator[str]:
        yield self.words or USUAL
