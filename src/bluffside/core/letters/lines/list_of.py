"""A list: a thing a line, with dashes or numbers."""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from bluffside.core.document_part import part
from bluffside.core.letters.line import LetterLine, Words
from bluffside.core.letters.plain import in_html
from bluffside.core.letters.sheet import Sheet


class ListLine(LetterLine):
    label = "list"
    sentence = "{items}, {numbered}"
    finds = ("list", "points", "numbers")

    kind: Literal["list"] = "list"
    items: Annotated[tuple[Words, ...], Field(max_length=100)] = part("things", "things, one a line", default=())
    numbered: bool = part("yes-no", "numbers or dashes", words={True: "numbered", False: "with dashes"}, default=False)

    def mjml(self, sheet: Sheet) -> str:
        rows = "".join(
            f'<tr><td class="ink" valign="top" style="padding:7px 12px 7px 0;width:1%;white-space:nowrap;border-top:1px solid #d9dcd8">{mark}</td>'
            f'<td class="ink" style="padding:7px 0;border-top:1px solid #d9dcd8">{sheet.words(item)}</td></tr>'
            for mark, item in self._marked()
        )
        return f'<mj-table css-class="ink">{rows}</mj-table>'

    def _marked(self) -> Iterator[tuple[str, str]]:
        for number, item in enumerate(self.items, 1):
            yield (f"{number}." if self.numbered else "–"), item

    def html(self) -> str:
        tag = "ol" if self.numbered else "ul"
        return f"<{tag}>{''.join(f'<li>{in_html(item)}</li>' for item in self.items)}</{tag}>"

    def texts(self) -> Iterator[str]:
        yield from self.items
