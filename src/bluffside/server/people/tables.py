"""Any file of people as a table: CSV and its kin, XLSX workbooks, vCards, rows pasted from somewhere.

`read_table` tells by the content what it has before it; the name of the file does not count. Whatever it is given, it
answers a table or raises BadSpreadsheet with a sentence.
"""

import io
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta

from python_calamine import CalamineWorkbook

from bluffside.server.people import vcard
from bluffside.server.people.spreadsheet import DELIMITER_WORDS, BadSpreadsheet, as_it_was, decoded, rows_of

MOST_ROWS = 200_000
MOST_CELLS = 60
LONGEST_CELL = 2_000
REASON = "Why it was not taken"  # the heading of the column that rows to correct come with


@dataclass(slots=True)
class Table:
    """`rows` are each as long as `columns`; `found` says how the file was read, in words; `first_row` is the number that a
    spreadsheet gives to the first of them."""

    columns: list[str]
    rows: list[list[str]]
    found: dict[str, str] = field(default_factory=dict)
    first_row: int = 2


def read_table(data: bytes) -> Table:
    """Raises BadSpreadsheet."""
    if data[:4] == b"PK\x03\x04" or data[:8] == b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1":
        return _workbook(data)
    text, encoding = decoded(data)
    return read_text(text, encoding)


def read_text(text: str, encoding: str = "") -> Table:
    """Also what somebody pasted. Raises BadSpreadsheet."""
    if vcard.is_vcard(text):
        return _cards(text, encoding)
    rows, delimiter = rows_of(text)
    found = {"kind": "rows pasted" if not encoding else "CSV", "cells": f"by {DELIMITER_WORDS[delimiter]}"}
    return with_headings(rows, found | ({"encoding": encoding} if encoding else {}))


def with_headings(rows: list[list[str]], found: dict[str, str], headed: bool | None = None) -> Table:
    """Rows as a table, the first of them its headings where it is `headed`, or looks so. Raises BadSpreadsheet."""
    if not rows:
        raise BadSpreadsheet("There are no rows in it.")
    if headed is None:
        headed = not _is_person(rows[0])
    if headed and len(rows) < 2:
        raise BadSpreadsheet("The file needs at least one row of people below its headings.")
    body = rows[1:] if headed else rows
    if len(body) > MOST_ROWS:
        raise BadSpreadsheet(f"The file has {len(body):,} rows; at most {MOST_ROWS:,} come in at once.")
    width = min(MOST_CELLS, max(len(row) for row in rows[:1_000]))
    heads = [*rows[0], *[""] * width][:width] if headed else [""] * width
    columns = [_clean(heading)[:120] or f"Column {n}" for n, heading in enumerate(heads, start=1)]
    kept = [[as_it_was(_clean(cell)) for cell in [*row[:width], *[""] * (width - len(row))]] for row in body]
    if max(len(row) for row in body) > MOST_CELLS:
        found["left out"] = f"columns after the {MOST_CELLS}th"
    if not headed:
        found["headings"] = "none: the first row is a person"
    return Table(columns, kept, found, 2 if headed else 1)


def _is_person(row: Sequence[str]) -> bool:
    """Whether a first row holds somebody rather than headings: an email address, or a number of seven digits and more."""
    return any("@" in cell or sum(letter.isdigit() for letter in cell) >= 7 for cell in row)


def _clean(cell: str) -> str:
    return " ".join(cell.replace("\x00", "").split())[:LONGEST_CELL]


# ---- workbooks


def _workbook(data: bytes) -> Table:
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        sheets = [(name, book.get_sheet_by_name(name)) for name in book.sheet_names]
        name, sheet = max(sheets, key=lambda one: one[1].total_height)
        if sheet.total_height > MOST_ROWS + 1:
            raise BadSpreadsheet(
                f"The sheet “{name}” has {sheet.total_height:,} rows; at most {MOST_ROWS:,} come in at once."
            )
        rows = [[_said(cell) for cell in row] for row in sheet.iter_rows()]
    except BadSpreadsheet:
        raise
    except BaseException as error:  # the reader is native code, whose panics are no Exceptions
        if isinstance(error, KeyboardInterrupt | SystemExit | MemoryError):
            raise
        raise BadSpreadsheet(
            "This workbook cannot be read. Open it in a spreadsheet program and save it again."
        ) from None
    found = {"kind": "workbook", "sheet": name}
    if len(sheets) > 1:
        found["sheets left out"] = ", ".join(other for other, _ in sheets if other != name)[:300]
    return with_headings([row for row in rows if any(map(str.strip, row))], found)


def _said(cell: object) -> str:
    """A cell as people would write it: dates as 2026-03-01, whole numbers without a point."""
    match cell:
        case bool():
            return "yes" if cell else "no"
        case float() if cell.is_integer() and abs(cell) < 1e15:
            return str(int(cell))
        case datetime() if cell.time() == time():
            return cell.date().isoformat()
        case datetime():
            return cell.isoformat(" ", "minutes")
        case date():
            return cell.isoformat()
        case time() | timedelta() | float() | int():
            return str(cell)
    return str(cell)


# ---- cards


def _cards(text: str, encoding: str) -> Table:
    cards = vcard.read(text)
    if not cards:
        raise BadSpreadsheet("There is nobody in these vCards.")
    if len(cards) > MOST_ROWS:
        raise BadSpreadsheet(f"There are {len(cards):,} cards; at most {MOST_ROWS:,} come in at once.")
    columns = [
        "First name",
        "Last name",
        "Email",
        "Mobile",
        "Further email",
        "Further number",
        "Postal address",
        "Time zone",
        "Tags",
        "Birthday",
        "Note",
    ]
    rows = [
        [
            card.first_name, card.last_name, *(card.emails[:1] or [""]), *(card.mobiles[:1] or [""]),
            "; ".join(card.emails[1:]), "; ".join(card.mobiles[1:]), card.post, card.zone, "; ".join(card.tags), card.birthday, card.note,
        ]
        for card in cards
    ]  # fmt: skip
    rows = [[_clean(cell) for cell in row] for row in rows]
    return Table(columns, rows, {"kind": "vCards"} | ({"encoding": encoding} if encoding else {}), 1)
