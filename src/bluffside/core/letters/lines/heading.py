"""A heading, of the letter or of a part of it."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.document_part import part
from bluffside.core.letters.line import LetterLine, Words
from bluffside.core.letters.plain import in_html
from bluffside.core.letters.sheet import Sheet


class HeadingLine(LetterLine):
    label = "heading"
    sentence = "{words}, {size}"
    finds = ("heading", "title", "headline")

    kind: Literal["heading"] = "heading"
    words: Words = part("rich", "words", default="")
    size: Literal["large", "small"] = part("choice", "size", default="large")

    def mjml(self, sheet: Sheet) -> str:
        points, tag = ("28px", "h1") if self.size == "large" else ("19px", "h2")
        style = f"margin:0;font-size:{points};line-height:1.2;font-weight:600;color:{sheet.look.link}"
        return f'<mj-text css-class="head" padding-bottom="6px"><{tag} style="{style}">{sheet.words(self.words)}</{tag}></mj-text>'

    def html(self) -> str:
        tag = "h1" if self.size == "large" else "h2"
        return f"<{tag}>{in_html(self.words)}</{tag}>"

    def texts(self) -> Iterator[str]:
        yield self.words
