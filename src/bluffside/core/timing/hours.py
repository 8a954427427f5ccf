"""Sending hours: the weekdays and times of day at which messages may go out, where the contact is.

An instant outside them moves forward to the next one allowed, never backward; a reminder, which must not
come after what it reminds of, moves backward instead. Sending outside 08:00 to 21:00 at the called
party's place is forbidden to marketers in the United States (47 CFR 64.1200(c)(1)); `LAWFUL_FROM` and
`LAWFUL_TO` hold that, and the checks warn of wider hours.
"""

from datetime import datetime, time, timedelta
from typing import Self

from pydantic import model_validator

from bluffside.core.document_part import DocumentPart
from bluffside.core.timing.clock_times import ClockTime
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.timing.weekdays import NAMES, WEEKDAYS, Weekday, Weekdays, describe_days

LAWFUL_FROM = time(8)
LAWFUL_TO = time(21)


class SendingHours(DocumentPart):
    """On these weekdays, from `start` (inclusive) to `end` (exclusive), local times."""

    weekdays: Weekdays = WEEKDAYS
    start: ClockTime = time(9)
    end: ClockTime = time(19)

    @model_validator(mode="after")
    def _opens_before_closing(self) -> Self:
        if self.start >= self.end:
            raise ValueError("sending hours must begin before they end, on the same day")
        return self

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

    def last_allowed(self, instant: datetime, zone: str) -> datetime:
        """This instant if it is allowed, else the last whole minute before it that is."""
        local = to_local(instant, zone)
        for back in range(8):
            day = local.date() - timedelta(days=back)
            if WEEKDAYS[day.weekday()] not in self.weekdays:
                continue
            opens = at_time(day, self.start, zone)
            closes = at_time(day, self.end, zone)
            if instant >= opens:
                return instant if instant < closes else closes - timedelta(minutes=1)
        raise AssertionError("one of eight days in a row is an allowed weekday")

    def describe(self) -> str:
        """ "Monday to Saturday, 9:00 to 19:00"."""
        return f"{describe_days(self.weekdays)}, {self.start:%H:%M} to {self.end:%H:%M}"


__all__ = ["LAWFUL_FROM", "LAWFUL_TO", "NAMES", "WEEKDAYS", "SendingHours", "Weekday"]
