"""Reading a CSV file whatever its encoding and delimiter, and writing one that no spreadsheet will run.

RFC 4180 says how rows and quotes are written; delimiters and encodings beyond it are those met in practice.
"""

import csv
import io
import re
from collections.abc import Iterable, Sequence

from charset_normalizer import from_bytes

DELIMITERS = ",;\t|"
MOST_ROWS = 100_000
MOST_CELLS = 60
_NUMBER = re.compile(r"^[+-]?[\d\s().-]+$")


class BadSpreadsheet(ValueError):
    """Why a file cannot be read as a table, in words."""


def read_csv(data: bytes) -> tuple[list[str], list[list[str]]]:
    """The headings and the rows below them, each as long as the headings. Empty rows are dropped."""
    text = _decoded(data)
    first = text.split("\n", 1)[0]
    delimiter = max(DELIMITERS, key=lambda one: (first.count(one), -DELIMITERS.index(one)))
    try:
        rows = [
            row for row in csv.reader(io.StringIO(text, newline=""), delimiter=delimiter) if any(map(str.strip, row))
        ]
    except csv.Error as error:
        raise BadSpreadsheet(f"This cannot be read as CSV: {error}.") from None
    if len(rows) < 2:
        raise BadSpreadsheet("The file needs a row of headings and at least one row of people below it.")
    if len(rows) - 1 > MOST_ROWS:
        raise BadSpreadsheet(f"The file has {len(rows) - 1:,} rows; at most {MOST_ROWS:,} come in at once.")
    columns = [heading.strip() or f"Column {n}" for n, heading in enumerate(rows[0][:MOST_CELLS], start=1)]
    width = len(columns)
    return columns, [[*row[:width], *[""] * (width - len(row))] for row in rows[1:]]


def _decoded(data: bytes) -> str:
    if not data.strip():
        raise BadSpreadsheet("The file is empty.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = _guessed(data)
    if "\x00" in text:
        raise BadSpreadsheet("The file is not text. If it is a workbook, save it as CSV first.")
    return text


def _guessed(data: bytes) -> str:
    """Text in another encoding than UTF-8. Letters of the West alone are read as Windows' Western code page: it is
    what spreadsheets save there, and its neighbours cannot be told from it by a few letters."""
    guess = from_bytes(data).best()
    if guess is None:
        raise BadSpreadsheet("The file is not text in an encoding that can be told; save it as CSV UTF-8.")
    wide = guess.encoding.startswith(("utf", "big5", "gb", "shift", "euc", "iso2022"))
    if not wide and not any(
        word in name for name in guess.alphabets for word in ("Cyrillic", "Greek", "Hebrew", "Arabic")
    ):
        try:
            return data.decode("cp1252")
        except UnicodeDecodeError:
            pass
    return str(guess)


def harmless(cell: str) -> str:
    """A cell a spreadsheet would take for a formula is made text; numbers, also "+44 …", stay as they are."""
    if cell[:1] in ("=", "+", "-", "@", "\t", "\r") and not _NUMBER.match(cell):
        return "'" + cell
    return cell


def write_csv(rows: Iterable[Sequence[str]]) -> str:
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerows([harmless(cell) for cell in row] for row in rows)
    return "\ufeff" + out.getvalue()
