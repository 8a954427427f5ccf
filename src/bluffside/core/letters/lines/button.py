"""A button: the one thing that the letter asks for."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.document_part import part
from bluffside.core.letters.inline import leads_somewhere
from bluffside.core.letters.line import Address, LetterLine, Words
from bluffside.core.letters.plain import in_html, link
from bluffside.core.letters.sheet import Sheet


class ButtonLine(LetterLine):
    label = "button"
    sentence = "{words} leads to {leads_to}"
    finds = ("button", "act", "ask")

    kind: Literal["button"] = "button"
    words: Words = part("rich", "words", default="")
    leads_to: Address = part("address", "leads to", empty="nowhere yet", default="")

    def mjml(self, sheet: Sheet) -> str:
        look = sheet.look
        return (
            f'<mj-button css-class="button" align="left" background-color="{look.colour}" color="{look.on}" border-radius="2px"'
            f' font-weight="600" font-size="17px" inner-padding="12px 28px" href="{sheet.leads(self.leads_to)}">'
            f"{sheet.words(self.words, links=False)}</mj-button>"
        )

    def html(self) -> str:
        return f"<p>{link(in_html(self.words), self.leads_to)}</p>"

    def texts(self) -> Iterator[str]:
        yield from (self.words, self.leads_to)

    def faults(self) -> Iterator[str]:
        if not self.words.strip():
            yield "A button says nothing yet."
        if not leads_somewhere(self.leads_to):
            yield f"“{self.leads_to}” is no address." if self.leads_to else "A button leads nowhere yet."
