"""Weekdays as documents write them: "mon" to "sun", always in order."""

from typing import Annotated, Literal

from pydantic import AfterValidator

Weekday = Literal["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
WEEKDAYS: tuple[Weekday, ...] = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
NAMES = dict(zip(WEEKDAYS, ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"), strict=True))


def in_order(days: tuple[Weekday, ...]) -> tuple[Weekday, ...]:
    if not days:
        raise ValueError("name at least one weekday")
    return tuple(day for day in WEEKDAYS if day in days)


Weekdays = Annotated[tuple[Weekday, ...], AfterValidator(in_order)]


def describe_days(days: tuple[Weekday, ...]) -> str:
    """ "any day", "Monday to Friday", "Monday, Thursday"."""
    first, last = WEEKDAYS.index(days[0]), WEEKDAYS.index(days[-1])
    if len(days) == 7:
        return "any day"
    if len(days) > 2 and last - first + 1 == len(days):
        return f"{NAMES[days[0]]} to {NAMES[days[-1]]}"
    return ", ".join(NAMES[day] for day in days)
