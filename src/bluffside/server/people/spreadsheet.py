"""CSV: reading it whatever its encoding and delimiter, and writing it so that no spreadsheet will run it.

RFC 4180 says how rows and quotes are written; delimiters and encodings beyond it are those met in practice.
"""

import csv
import io
import re
import unicodedata
from collections import Counter
from collections.abc import Iterable, Sequence

from charset_normalizer import from_bytes

DELIMITERS = ",;\t|"
LOOKED_AT = 200  # lines, to find the delimiter
_NUMBER = re.compile(r"^[+-]?[\d\s().-]+$")
_CUTS = re.compile("([;,|\t\r\n])")
_FORMULA = "=+-@"
DELIMITER_WORDS = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars"}
csv.field_size_limit(1_000_000)


class BadSpreadsheet(ValueError):
    """Why a file cannot be read as a table, in words."""


def rows_of(text: str) -> tuple[list[list[str]], str]:
    """The rows that are not empty, and the delimiter they were read by."""
    delimiter = _delimiter(text)
    try:
        read = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
        rows = [row for row in read if any(map(str.strip, row))]
    except csv.Error as error:
        raise BadSpreadsheet(f"This cannot be read as CSV: {error}.") from None
    return rows, delimiter


def _delimiter(text: str) -> str:
    """The one by which most of the first lines have the same number of cells, more than one."""
    lines = [line for line in text[:200_000].splitlines() if line.strip()][:LOOKED_AT]

    def fits(one: str) -> tuple[int, int, int]:
        try:
            widths = Counter(len(row) for row in csv.reader(lines, delimiter=one))
        except csv.Error:
            return 0, 0, 0
        width, times = max(widths.items(), key=lambda found: (found[0] > 1, found[1]), default=(1, 0))
        return (times if width > 1 else 0), width, -DELIMITERS.index(one)

    return max(DELIMITERS, key=fits)


def decoded(data: bytes) -> tuple[str, str]:
    """The text, and the encoding it was read in, in words. Raises BadSpreadsheet."""
    if not data.strip():
        raise BadSpreadsheet("The file is empty.")
    try:
        text, words = data.decode("utf-8-sig"), "UTF-8"
    except UnicodeDecodeError:
        text, words = _mixed(data) or _guessed(data)
    if "\x00" in text:
        raise BadSpreadsheet("The file is not text. If it is a workbook, save it as XLSX or CSV first.")
    return text, words


def _mixed(data: bytes) -> tuple[str, str] | None:
    """UTF-8 into which lines of Windows' Western encoding were pasted; None when it is not mostly UTF-8."""
    if b"\x00" in data:
        return None
    lines, odd, wide = data.split(b"\n"), 0, 0
    out: list[str] = []
    for line in lines:
        try:
            out.append(line.decode("utf-8"))
            wide += not line.isascii()
        except UnicodeDecodeError:
            odd += 1
            out.append(line.decode("cp1252", "replace"))
    if wide < odd or not wide:
        return None
    return "\n".join(out).removeprefix("\ufeff"), f"UTF-8, {odd:,} lines of it in Windows’ Western encoding"


def _guessed(data: bytes) -> tuple[str, str]:
    """Text in another encoding than UTF-8. Letters of the West alone are read as Windows' Western code page: it is
    what spreadsheets save there, and its neighbours cannot be told from it by a few letters."""
    guess = from_bytes(data[:2_000_000]).best()
    if guess is None:
        raise BadSpreadsheet("The file is not text in an encoding that can be told; save it as CSV UTF-8.")
    wide = guess.encoding.startswith(("utf", "big5", "gb", "shift", "euc", "iso2022"))
    if not wide and not any(
        word in name for name in guess.alphabets for word in ("Cyrillic", "Greek", "Hebrew", "Arabic")
    ):
        try:
            return data.decode("cp1252"), "Windows’ Western encoding"
        except UnicodeDecodeError:
            pass
    try:
        return data.decode(guess.encoding).removeprefix("\ufeff"), guess.encoding.replace("_", "-").upper()
    except (UnicodeDecodeError, LookupError):
        raise BadSpreadsheet("The file is not text in an encoding that can be told; save it as CSV UTF-8.") from None


def harmless(cell: str) -> str:
    """A cell a spreadsheet would take for a formula is made text; numbers, also "+44 …", stay as they are. So are the parts
    of it that a program with another delimiter would take for cells, and signs as wide as letters, which some read alike."""
    return "".join(part if number % 2 else _harmless(part) for number, part in enumerate(_CUTS.split(cell)))


def _harmless(part: str) -> str:
    begins = unicodedata.normalize("NFKC", part.lstrip(" \"'"))[:1]
    return "'" + part if begins in _FORMULA and begins and not _NUMBER.match(part) else part


def as_it_was(cell: str) -> str:
    """A cell that `harmless` made text, as it had been."""
    return "".join(
        part[1:] if not number % 2 and part[:1] == "'" and _harmless(part[1:]) != part[1:] else part
        for number, part in enumerate(_CUTS.split(cell))
    )


def csv_rows(rows: Iterable[Sequence[str]]) -> Iterable[str]:
    """Lines of a CSV file, the first with the mark by which spreadsheets know UTF-8."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    mark = "\ufeff"
    for row in rows:
        writer.writerow([harmless(cell) for cell in row])
        yield mark + out.getvalue()
        mark = ""
        out.seek(0)
        out.truncate()


def write_csv(rows: Iterable[Sequence[str]]) -> str:
    return "".join(csv_rows(rows))
