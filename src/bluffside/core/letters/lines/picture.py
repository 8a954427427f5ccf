"""A picture, as wide as the letter or smaller, with words for who cannot see it."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.document_part import part
from bluffside.core.letters.inline import leads_somewhere, shows_a_picture
from bluffside.core.letters.line import Address, LetterLine, Words
from bluffside.core.letters.plain import in_html, link
from bluffside.core.letters.sheet import Sheet

WIDTHS = {"whole": 560, "half": 280, "small": 140}


class PictureLine(LetterLine):
    label = "picture"
    sentence = "{address}, {words}, {width}, leads {leads_to}"
    finds = ("picture", "photo", "image")

    kind: Literal["picture"] = "picture"
    address: Address = part("picture", "the picture", default="")
    words: Words = part("line", "words for who cannot see it", default="")
    width: Literal["whole", "half", "small"] = part(
        "choice", "how wide", words={"whole": "as wide as the letter", "half": "half as wide"}, default="whole"
    )
    leads_to: Address = part("address", "leads to", empty="nowhere", default="")

    def mjml(self, sheet: Sheet) -> str:
        href = f' href="{sheet.leads(self.leads_to)}"' if self.leads_to else ""
        return (
            f'<mj-image css-class="picture" src="{sheet.picture(self.address)}" alt="{sheet.attribute(self.words)}"'
            f' width="{WIDTHS[self.width]}px" align="left"{href} />'
        )

    def html(self) -> str:
        shown = in_html(f"({self.words})") if self.words else ""
        return f"<p>{link(shown, self.leads_to)}</p>"

    def texts(self) -> Iterator[str]:
        yield from (self.address, self.words, self.leads_to)

    def faults(self) -> Iterator[str]:
        if not shows_a_picture(self.address):
            yield "A picture is not there yet: bring one in, or say its address in the web."
        elif not self.words:
            yield "A picture has no words yet for who cannot see it."
        if self.leads_to and not leads_somewhere(self.leads_to):
            yield f"“{self.leads_to}” is no address."
