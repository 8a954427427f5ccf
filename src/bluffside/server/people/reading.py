"""Reading dates, numbers, yes and no from words, by a rule that is shown and can be changed.

03/04/2026 is a day in March in one country and in April in another. A rule is guessed from all values of a column (one
above 12 settles it), said in words, and then used for every row; a value that does not follow it is a fault and is not
bent into something.
"""

import re
from collections.abc import Iterable
from datetime import date, datetime
from decimal import Decimal
from typing import Literal

Rule = Literal["", "day_first", "month_first", "year_first", "point", "comma"]
RULES: dict[Rule, str] = {
    "": "as it is",
    "day_first": "day first: 31/12/2026",
    "month_first": "month first: 12/31/2026",
    "year_first": "year first: 2026-12-31",
    "point": "1,234.50",
    "comma": "1.234,50",
}
YES = {"yes", "y", "true", "1", "x", "on", "ja", "oui", "si", "sí", "✓", "✔"}
NO = {"no", "n", "false", "0", "off", "nein", "non", "-", "✗"}
_PARTS = re.compile(r"^\s*(\d{1,4})[./\-\s](\d{1,2})[./\-\s](\d{1,4})(?:[ T].*)?$")
_MONTHS = {name: n for n, name in enumerate("jan feb mar apr may jun jul aug sep oct nov dec".split(), start=1)}
_WORDY = re.compile(r"^\s*(?:\w{3,9},?\s+)?(?:(\d{1,2})(?:st|nd|rd|th)?\s+([a-z]{3})[a-z]*\.?|([a-z]{3})[a-z]*\.?\s+(\d{1,2})(?:st|nd|rd|th)?),?\s+(\d{4})\s*$", re.I)  # fmt: skip
# What may stand around a number: signs and short names of currencies, spaces, the apostrophe that parts thousands.
_MONEY = re.compile(r"(?<![^\W\d_])[^\W\d_]{1,3}(?![^\W\d_])|[\s'’]|[\u20a0-\u20cf$£¥]")


def looks_like_a_date(text: str) -> bool:
    """Whether it has a date's three figures, the year in full."""
    found = _PARTS.match(text)
    return found is not None and 4 in map(len, found.groups())


def guess_date_rule(values: Iterable[str]) -> Rule:
    """The order in which most values are days; day first where it cannot be told."""
    first = second = year = 0
    for value in values:
        if not (found := _PARTS.match(value)):
            continue
        if len(found[1]) == 4:
            year += 1
        elif int(found[1]) > 12:
            first += 1
        elif int(found[2]) > 12:
            second += 1
    if year > first + second:
        return "year_first"
    return "month_first" if second > first else "day_first"


def read_date(text: str, rule: Rule, now: date | None = None) -> date:
    """Raises ValueError in words. A year of two digits is of this century, unless it lies more than ten years ahead."""
    said = text.strip()
    if wordy := _WORDY.match(said):
        day, month = (wordy[1], wordy[2]) if wordy[1] else (wordy[4], wordy[3])
        parts = (int(wordy[5]), _MONTHS.get(month.lower(), 0), int(day))
    elif found := _PARTS.match(said):
        a, b, c = int(found[1]), int(found[2]), int(found[3])
        if len(found[1]) == 4:
            parts = (a, b, c)
        else:
            year = c if len(found[3]) == 4 else _century(c, now)
            parts = (year, b, a) if rule != "month_first" else (year, a, b)
    else:
        raise ValueError(f"“{text}” is not a date")
    try:
        return date(*parts)
    except ValueError:
        how = f", read {RULES[rule].partition(':')[0]}" if rule else ""
        raise ValueError(f"“{text}” is no day of the calendar{how}") from None


def _century(year: int, now: date | None) -> int:
    this = (now or datetime.now().date()).year  # noqa: DTZ005  # only which century it is
    return 2000 + year if 2000 + year <= this + 10 else 1900 + year


def guess_number_rule(values: Iterable[str]) -> Rule:
    """Whether a comma or a point parts the whole from the fraction."""
    comma = point = 0
    for value in values:
        said = _MONEY.sub("", value)
        if re.search(r",\d{1,2}$", said) or re.search(r"\.\d{3},", said):
            comma += 1
        elif re.search(r"\.\d+$", said) or re.search(r",\d{3}(\.|$)", said):
            point += 1
    return "comma" if comma > point else "point"


def read_number(text: str, rule: Rule) -> Decimal:
    """Raises ValueError in words. Signs of currencies and spaces are passed over."""
    said = _MONEY.sub("", text.replace("−", "-"))
    said = said.replace(".", "").replace(",", ".") if rule == "comma" else said.replace(",", "")
    if not re.fullmatch(r"[+-]?([0-9]{1,30}(\.[0-9]{0,10})?|\.[0-9]{1,10})", said):
        raise ValueError(f"“{text}” is not a number")
    return Decimal(said)


def read_yes_no(text: str) -> bool:
    """Raises ValueError in words."""
    said = text.strip().lower()
    if said in YES:
        return True
    if said in NO:
        return False
    raise ValueError(f"“{text}” is neither yes nor no")
