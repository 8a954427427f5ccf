"""On paper (PDF, A4): the script, for a client to read and sign off, with every message in full; and letters to post."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

import font_source_serif_pro
from fpdf import FPDF
from fpdf.enums import XPos, YPos

from bluffside.core.messages.merge import readable
from bluffside.core.messages.wording import Wording
from bluffside.core.steps.base import Lane, Step
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.reading import LineReading, read

FONTS = Path(font_source_serif_pro.__file__).parent / "files"
INK, SOFT, RULE = (31, 42, 48), (85, 98, 106), (221, 216, 204)
TIME, INDENT = 30, 7  # mm: the ruler of time, and how far each lane stands in
WHO = {"account": "", "member": "The team: ", "contact": "The contact: ", "": ""}


def script(workflow: Workflow, account: str, zone: str, version: str, now: datetime) -> bytes:
    """Days are counted as if joining now."""
    reading = read(workflow, now, zone)
    page = _Page(account, version)
    page.heading(workflow.name, version)
    if workflow.description:
        page.words(workflow.description, 11)
    page.words(reading.summary, 11)
    page.ln(3)
    _Script(page, {line.step: line for line in reading.lines}).run(workflow.steps, 0)
    page.place_to_sign()
    return bytes(page.output())


class _Page(FPDF):
    def __init__(self, account: str, version: str, first: bool = True) -> None:
        super().__init__(format="A4")
        for style, file in (("", "Regular"), ("B", "Semibold"), ("I", "It")):
            self.add_font("serif", style, FONTS / f"SourceSerifPro-{file}.ttf")
        self.account, self.version = account, version
        self.set_margins(20, 18, 20)
        self.set_auto_page_break(True, 20)
        self.set_text_shaping(False)
        if first:
            self.add_page()

    def footer(self) -> None:
        self.set_y(-14)
        self.style(8, soft=True)
        self.cell(0, 5, f"{self.account} · {self.version} · page {self.page_no()}", align="R")

    def style(self, size: float, bold: str = "", soft: bool = False) -> None:
        self.set_font("serif", bold, size)
        self.set_text_color(*(SOFT if soft else INK))

    def heading(self, name: str, version: str) -> None:
        self.style(9, soft=True)
        self.cell(0, 5, self.known(f"{self.account} · {version}"), new_x=XPos.LMARGIN, new_y=YPos.NEXT)
        self.style(20, "B")
        self.multi_cell(0, 9, self.known(name), new_x=XPos.LMARGIN, new_y=YPos.NEXT)
        self.ln(1)

    def words(self, words: str, size: float, bold: str = "", soft: bool = False, left: float = 0) -> None:
        self.style(size, bold, soft)
        self.set_x(self.l_margin + left)
        self.multi_cell(0, size * 0.48, self.known(words), align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)

    def known(self, words: str) -> str:
        """Letters that the font lacks (emoji, say) are shown as a lozenge, not as nothing."""
        have = self.fonts["serif"].cmap  # type: ignore[union-attr]
        return "".join(one if one == "\n" or ord(one) in have else "◊" for one in words)

    def rule(self, left: float = 0) -> None:
        self.set_draw_color(*RULE)
        self.line(self.l_margin + left, self.get_y(), self.w - self.r_margin, self.get_y())

    def place_to_sign(self) -> None:
        if self.get_y() > self.h - 55:
            self.add_page()
        self.ln(14)
        for label in ("Read and agreed, name", "Date and signature"):
            self.ln(8)
            self.set_draw_color(*SOFT)
            self.line(self.l_margin, self.get_y(), self.l_margin + 80, self.get_y())
            self.ln(1)
            self.words(label, 8, soft=True)


class _Script:
    def __init__(self, page: _Page, readings: dict[str, LineReading]) -> None:
        self.page = page
        self.readings = readings

    def run(self, steps: tuple[Step, ...], depth: int) -> None:
        for step in steps:
            self.line(step, depth)
            for lane in step.lanes_below():
                self.lane(lane, depth + 1)

    def line(self, step: Step, depth: int) -> None:
        page, reading = self.page, self.readings[step.id]
        if page.get_y() > page.h - 32:
            page.add_page()
        top, number = page.get_y(), page.page_no()
        page.style(9, soft=True)
        page.set_xy(page.l_margin, top)
        page.cell(TIME - 3, 5.5, _when(reading), align="R")
        page.set_xy(page.l_margin, top)
        left = TIME + depth * INDENT
        page.words(WHO[step.who] + reading.sentence, 11.5, left=left)
        for wording in _wordings(step):
            self.message(wording, left + 4)
        if page.page_no() == number and page.get_y() < top + 6:
            page.set_y(top + 6)
        page.ln(1.5)

    def message(self, wording: Wording, left: float) -> None:
        heading, page = readable(wording.heading), self.page
        page.ln(1)
        if heading:
            page.words(heading, 10, "B", left=left)
        page.words(readable(wording.body) or "No words yet.", 10, left=left)
        for other in wording.others:
            page.words("or, in turn:", 9, "I", soft=True, left=left)
            page.words(readable(other.body), 10, left=left)

    def lane(self, lane: Lane, depth: int) -> None:
        page, left = self.page, TIME + depth * INDENT
        if page.get_y() > page.h - 40:
            page.add_page()
        page.ln(1)
        page.words(lane.heading(), 11, "I", left=left)
        page.rule(left)
        page.ln(1.5)
        if lane.steps:
            self.run(lane.steps, depth)
        else:
            page.words("Nothing happens here; it goes on below.", 10, soft=True, left=left)
        page.ln(1)


def _when(line: LineReading) -> str:
    if line.acts is None or line.past is None:
        return f"by {line.goes_by}" if line.goes_by else ""
    if line.waits == "answer":
        return f"until day {line.past.last_day}"
    at = line.past if line.waits else line.acts
    if at.day == at.last_day:
        return f"Day {at.day}  {at.at[11:16]}"
    return f"Day {at.day} to {at.last_day}"


def _wordings(step: Step) -> list[Wording]:
    return [value for field in type(step).model_fields if isinstance(value := getattr(step, field), Wording)]


# ---- letters


@dataclass(frozen=True, slots=True)
class Letter:
    """`post` is the address, its lines divided by commas or line ends; `about` what it is called."""

    to: str
    post: str
    about: str
    words: str


def letters(sheets: Sequence[Letter], account: str, own_address: str, day: str) -> bytes:
    """One to a page, the address where a window envelope shows it (DIN 5008 form B, from memory: 20 mm from the left,
    45 mm from the top)."""
    page = _Page(account, day, first=False)
    for sheet in sheets:
        page.add_page()
        page.words(f"{account}, {own_address}", 8, soft=True)
        page.set_y(52)
        lines = [sheet.to, *(part.strip() for part in sheet.post.replace("\n", ",").split(","))]
        page.words("\n".join(line for line in lines if line), 11.5)
        if not sheet.post:
            page.words("no postal address on record", 9, "I", soft=True)
        page.set_y(98)
        page.words(day, 11)
        page.ln(8)
        page.words(sheet.words, 11.5)
    if not sheets:
        page.add_page()
        page.words("No letters are due.", 11.5)
    return bytes(page.output())
