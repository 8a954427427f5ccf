"""A paragraph."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.document_part import part
from bluffside.core.letters.line import LetterLine, Words
from bluffside.core.letters.plain import in_html
from bluffside.core.letters.sheet import Sheet


class ParagraphLine(LetterLine):
    label = "paragraph"
    sentence = "{words}"
    finds = ("paragraph", "words", "text")

    kind: Literal["paragraph"] = "paragraph"
    words: Words = part("rich", "words", default="")

    def mjml(self, sheet: Sheet) -> str:
        return f'<mj-text css-class="ink">{sheet.words(self.words)}</mj-text>'

    def html(self) -> str:
        return f"<p>{in_html(self.words)}</p>"

    def texts(self) -> Iterator[str]:
        yield self.words
