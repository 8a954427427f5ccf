"""A date that is kept each year, said plainly for 29 February: in other years it is kept on the 28th, on
1 March, or not at all, as somebody chose. (RFC 5545 would leave it out; people with that birthday would not.)
"""

from calendar import isleap
from datetime import date
from typing import Literal

LeapDay = Literal["feb_28", "mar_1", "left_out"]
LEAP_WORDS: dict[LeapDay, str] = {
    "feb_28": "(29 February on the 28th in other years)",
    "mar_1": "(29 February on 1 March in other years)",
    "left_out": "(29 February left out in other years)",
}
LEAP_DAYS: dict[str, tuple[str, ...]] = {"date": ("null", "*-02-29")}  # where a date may be one: it is, or a field's


def leap_words(fixed: date | None, kept: LeapDay) -> str:
    """What is said of 29 February where a yearly date is fixed, or a field's; empty where it cannot be that day."""
    return LEAP_WORDS[kept] if fixed is None or (fixed.month, fixed.day) == (2, 29) else ""


def why_kept(day: date, kept: date, began: int, leap_day: LeapDay) -> str:
    """Why a yearly date comes when it does, looked for from a year on; empty where it comes on its own day."""
    if kept.day != day.day:
        return f"{kept.year} has no 29 February: kept on {kept.day} {kept:%B}"
    none_then = in_year(day, began, leap_day) is None
    return f"{began} has no 29 February: left out until {kept.year}" if none_then else ""


def in_year(day: date, year: int, leap_day: LeapDay) -> date | None:
    """The day on which a yearly date is kept in a year; None when it is left out."""
    if (day.month, day.day) != (2, 29) or isleap(year):
        return day.replace(year=year)
    if leap_day == "left_out":
        return None
    return date(year, 2, 28) if leap_day == "feb_28" else date(year, 3, 1)
