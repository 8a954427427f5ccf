"""On paper (PDF, A4): the script, for a client to read and sign off, with every message in full; and letters to post."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from bluffside.core.channel_kinds.wording import Wording, wordings_in
from bluffside.core.messages.merge import readable
from bluffside.core.steps.base import Lane, Step
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.reading import LineReading, read
from bluffside.server.pdf import SOFT, Sheet

SIDE = 24  # mm, of the code under a letter
TIME, INDENT = 30, 7  # mm: the ruler of time, and how far each lane stands in
WHO = {"account": "", "member": "The team: ", "contact": "The contact: ", "": ""}


def script(workflow: Workflow, account: str, zone: str, version: str, now: datetime) -> bytes:
    """Days are counted as if joining now."""
    reading = read(workflow, now, zone)
    page = Sheet(account, version)
    page.heading(workflow.name, version)
    if workflow.description:
        page.words(workflow.description, 11)
    page.words(reading.summary, 11)
    page.ln(3)
    _Script(page, {line.step: line for line in reading.lines}).run(workflow.steps, 0)
    _place_to_sign(page)
    return bytes(page.output())


def _place_to_sign(page: Sheet) -> None:
    if page.get_y() > page.h - 55:
        page.add_page()
    page.ln(14)
    for label in ("Read and agreed, name", "Date and signature"):
        page.ln(8)
        page.set_draw_color(*SOFT)
        page.line(page.l_margin, page.get_y(), page.l_margin + 80, page.get_y())
        page.ln(1)
        page.words(label, 8, soft=True)


class _Script:
    def __init__(self, page: Sheet, readings: dict[str, LineReading]) -> None:
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
        page.cell(TIME - 3, 5.5, when(reading), align="R")
        page.set_xy(page.l_margin, top)
        left = TIME + depth * INDENT
        page.words(WHO[step.who] + reading.sentence, 11.5, left=left)
        for _, wording in wordings_in(step):
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
            page.words("or, by shares:" if wording.by_share else "or, in turn:", 9, "I", soft=True, left=left)
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


def when(line: LineReading) -> str:
    if line.acts is None or line.past is None:
        return f"by {line.goes_by}" if line.goes_by else ""
    if line.waits == "answer":
        return f"until day {line.past.last_day}"
    at = line.past if line.waits else line.acts
    if at.day == at.last_day:
        return f"Day {at.day}  {at.at[11:16]}"
    return f"Day {at.day} to {at.last_day}"


@dataclass(frozen=True, slots=True)
class Letter:
    """`post` is the address, its lines divided by commas or line ends; `about` what it is called; `own_page` the address
    of the contact's own page, where they decide what they hear."""

    to: str
    post: str
    about: str
    words: str
    own_page: str = ""


def letters(sheets: Sequence[Letter], account: str, own_address: str, day: str, to_own: str) -> bytes:
    """One to a page, the address where a window envelope shows it (DIN 5008 form B, from memory: 20 mm from the left,
    45 mm from the top). `to_own` are the words that lead to each one's own page."""
    page = Sheet(account, day, first=False)
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
        if sheet.own_page:
            page.ln(6)
            if page.get_y() > page.h - 20 - SIDE:
                page.add_page()
            top = page.get_y()
            page.code(sheet.own_page, page.l_margin - 2, top, SIDE)
            page.set_y(top + 5)
            page.words(f"{to_own}:\n{sheet.own_page}", 9, soft=True, left=SIDE + 2)
    if not sheets:
        page.add_page()
        page.words("No letters are due.", 11.5)
    return bytes(page.output())
