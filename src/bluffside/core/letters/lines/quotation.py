"""What somebody said, and who."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.document_part import part
from bluffside.core.letters.line import LetterLine, Words
from bluffside.core.letters.plain import in_html
from bluffside.core.letters.sheet import Sheet


class QuotationLine(LetterLine):
    label = "quotation"
    sentence = "{words}, said by {who}"
    finds = ("quotation", "quote", "said")

    kind: Literal["quotation"] = "quotation"
    words: Words = part("rich", "words", default="")
    who: Words = part("line", "who said it", empty="nobody named", default="")

    def mjml(self, sheet: Sheet) -> str:
        who = f'<br><span class="soft" style="font-style:normal;font-size:15px;color:#55626a">{sheet.words(self.who)}</span>'
        return (
            f'<mj-text css-class="ink quotation" container-background-color="transparent"><div style="border-left:3px solid {sheet.look.link};'
            f'padding:2px 0 2px 16px;font-style:italic">{sheet.words(self.words)}{who if self.who else ""}</div></mj-text>'
        )

    def html(self) -> str:
        who = f"<br>{in_html(self.who)}" if self.who else ""
        return f"<blockquote>“{in_html(self.words)}”{who}</blockquote>"

    def texts(self) -> Iterator[str]:
        yield from (self.words, self.who)
