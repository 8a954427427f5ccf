"""A date that is kept each year, said plainly for 29 February: in other years it is kept on the 28th, on
1 March, or not at all, as somebody chose. (RFC 5545 would leave it out; people with that birthday would not.)
"""

from calendar import isleap
from datetime import date
from typing import Literal

LeapDay = Literal["feb_28", "mar_1", "left_out"]
LEAP_WORDS: dict[LeapDay, str] = {"feb_28": "28 February", "mar_1": "1 March", "left_out": "left out"}


def in_year(day: date, year: int, leap_day: LeapDay) -> date | None:
    """The day on which a yearly date is kept in a year; None when it is left out."""
    if (day.month, day.day) != (2, 29) or isleap(year):
        return day.replace(year=year)
    if leap_day == "left_out":
        return None
    return date(year, 2, 28) if leap_day == "feb_28" else date(year, 3, 1)
