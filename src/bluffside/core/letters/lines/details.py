"""Details of the business or of the responsible member: where to find, ring and write to them."""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from bluffside.core.document_part import part
from bluffside.core.letters.line import LetterLine
from bluffside.core.letters.plain import in_html
from bluffside.core.letters.sheet import Sheet

Detail = Literal["name", "postal_address", "phone", "web_page", "booking_link"]
WORDS: dict[str, str] = {
    "name": "name",
    "postal_address": "postal address",
    "phone": "phone",
    "web_page": "web page",
    "booking_link": "booking link",
}


class DetailsLine(LetterLine):
    """Their values are the account's at the time, by merge fields."""

    label = "details"
    sentence = "{which}"
    finds = ("details", "address", "phone", "where")

    kind: Literal["details"] = "details"
    which: Annotated[tuple[Detail, ...], Field(min_length=1, max_length=5)] = part(
        "choices", "which of the account's", words=WORDS, default=("name", "postal_address", "phone")
    )

    def _written(self) -> list[str]:
        return [f"{{{{ account.{one} }}}}" for one in self.which]

    def mjml(self, sheet: Sheet) -> str:
        return f'<mj-text css-class="ink">{"<br>".join(map(sheet.words, self._written()))}</mj-text>'

    def html(self) -> str:
        return f"<p>{'<br>'.join(map(in_html, self._written()))}</p>"

    def texts(self) -> Iterator[str]:
        yield from self._written()
