"""The appointment that the letter is about: what, when, where, and the link to change it."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.letters.line import LetterLine
from bluffside.core.letters.plain import in_html, link
from bluffside.core.letters.sheet import Sheet

WHAT, WHEN = "**{{ appointment.type }}**", "{{ appointment.day }}, {{ appointment.time }}"
WHERE, LEADS = "{{ appointment.place }}", "{{ appointment.link }}"
CHANGE = "Confirm, move or cancel it"


class AppointmentLine(LetterLine):
    label = "appointment"
    finds = ("appointment", "booking", "when")

    kind: Literal["appointment"] = "appointment"

    def mjml(self, sheet: Sheet) -> str:
        rows = "<br>".join(map(sheet.words, (WHAT, WHEN, WHERE, f"[{CHANGE}]({LEADS})")))
        return f'<mj-text css-class="ink"><div style="border-top:1px solid #d9dcd8;border-bottom:1px solid #d9dcd8;padding:12px 0">{rows}</div></mj-text>'

    def html(self) -> str:
        return f"<p>{'<br>'.join(map(in_html, (WHAT, WHEN, WHERE)))}<br>{link(in_html(CHANGE), LEADS)}</p>"

    def texts(self) -> Iterator[str]:
        yield from (WHAT, WHEN, WHERE, LEADS)
