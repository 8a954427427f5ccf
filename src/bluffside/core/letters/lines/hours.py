"""The opening hours of the business, as they stand when the letter goes."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.letters.line import LetterLine
from bluffside.core.letters.plain import in_html
from bluffside.core.letters.sheet import Sheet

HOURS = "{{ account.opening_hours }}"


class HoursLine(LetterLine):
    label = "opening hours"
    finds = ("hours", "opening", "open")

    kind: Literal["hours"] = "hours"

    def mjml(self, sheet: Sheet) -> str:
        return f'<mj-text css-class="ink">{sheet.words(HOURS)}</mj-text>'

    def html(self) -> str:
        return f"<p>{in_html(HOURS)}</p>"

    def texts(self) -> Iterator[str]:
        yield HOURS
