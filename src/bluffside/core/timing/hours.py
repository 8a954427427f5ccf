"""Sending hours: the weekdays and times of day at which messages may go out, where the contact is.

An instant outside them moves forward to the next one allowed, never backward. Sending outside 08:00
to 21:00 at the called party's place is forbidden to marketers in the United States (47 CFR
64.1200(c)(1)); `LAWFUL_FROM` and `LAWFUL_TO` hold that, and the checks warn of wider hours.
"""

from datetime import datetime, time, timedelta
from typing import Literal, Self

from pydantic import field_serializer, field_validator, model_validator

from bluffside.core.document_part import DocumentPart
from bluffside.core.timing.local import at_time, to_local

Weekday = Literal["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
WEEKDAYS: tuple[Weekday, ...] = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
NAMES = dict(zip(WEEKDAYS, ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"), strict=True))

LAWFUL_FROM = time(8)
LAWFUL_TO = time(21)


class SendingHours(DocumentPart):
    """On these weekdays, from `start` (inclusive) to `end` (exclusive), local times."""

    weekdays: tuple[Weekday, ...] = WEEKDAYS
    start: time = time(9)
    end: time = time(19)

    @field_validator("weekdays")
    @classmethod
    def _in_order(cls, value: tuple[Weekday, ...]) -> tuple[Weekday, ...]:
        if not value:
            raise ValueError("name at least one weekday on which messages may go out")
        return tuple(day for day in WEEKDAYS if day in value)

    @model_validator(mode="after")
    def _opens_before_closing(self) -> Self:
        if self.start >= self.end:
            raise ValueError("sending hours must begin before they end, on the same day")
        return self

    @field_serializer("start", "end")
    def _to_minutes(self, value: time) -> str:
        return value.strftime("%H:%M")

    def next_allowed(self, instant: datetime, zone: str) -> datetime:
        """This instant if it is allowed, else the first one after it that is."""
        local = to_local(instant, zone)
        for ahead in range(8):
            day = local.date() + timedelta(days=ahead)
            if WEEKDAYS[day.weekday()] not in self.weekdays:
                continue
            opens = at_time(day, self.start, zone)
            closes = at_time(day, self.end, zone)
            if instant < closes:
                return max(instant, opens)
        raise AssertionError("one of eight days in a row is an allowed weekday")

    def describe(self) -> str:
        """ "Monday to Saturday, 9:00 to 19:00"."""
        first, last = WEEKDAYS.index(self.weekdays[0]), WEEKDAYS.index(self.weekdays[-1])
        if len(self.weekdays) == 7:
            days = "any day"
        elif len(self.weekdays) > 2 and last - first + 1 == len(self.weekdays):
            days = f"{NAMES[self.weekdays[0]]} to {NAMES[self.weekdays[-1]]}"
        else:
            days = ", ".join(NAMES[day] for day in self.weekdays)
        return f"{days}, {self.start:%H:%M} to {self.end:%H:%M}"
