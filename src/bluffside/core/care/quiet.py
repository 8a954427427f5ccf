"""Quiet hours: when nothing is sent, in the contact's own time, per channel and purpose; and opening hours.

A message that falls into quiet hours moves forward to their end, never backward (a reminder that may not
come late is moved back before them by the step that times it).
"""

from collections.abc import Mapping
from datetime import date, datetime, time, timedelta
from typing import Self

from pydantic import Field, model_validator

from bluffside.core.document_part import DocumentPart
from bluffside.core.terms import CHANNELS, PURPOSES, Channel, Purpose
from bluffside.core.timing.clock_times import ClockTime, Day
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.timing.weekdays import WEEKDAYS, Weekday


class QuietHours(DocumentPart):
    """From `start` (inclusive) to `end` (exclusive), local times; over midnight when the end is the earlier."""

    start: ClockTime = time(21)
    end: ClockTime = time(8)
    channels: tuple[Channel, ...] = CHANNELS
    purposes: tuple[Purpose, ...] = PURPOSES

    @model_validator(mode="after")
    def _leaves_some_of_the_day(self) -> Self:
        if self.start == self.end:
            raise ValueError("quiet hours that begin when they end would never let anything out")
        return self

    def concern(self, channel: Channel, purpose: Purpose) -> bool:
        return channel in self.channels and purpose in self.purposes

    def window_at(self, instant: datetime, zone: str) -> tuple[datetime, datetime] | None:
        """The quiet stretch that an instant lies in, as [begin, end); None when it lies in none."""
        today = to_local(instant, zone).date()
        for first in (today - timedelta(days=1), today):
            last = first + timedelta(days=1) if self.end <= self.start else first
            begins, ends = at_time(first, self.start, zone), at_time(last, self.end, zone)
            if begins <= instant < ends:
                return begins, ends
        return None

    def describe(self) -> str:
        return f"{self.start:%H:%M} to {self.end:%H:%M}"


class Opening(DocumentPart):
    """Open from `start` to `end`, local times of the account."""

    start: ClockTime = time(9)
    end: ClockTime = time(17)


class OpenOn(DocumentPart):
    """The hours of one day that is not as its weekday is, also a holiday's; none: closed."""

    day: Day
    hours: tuple[Opening, ...] = ()


class OpeningHours(DocumentPart):
    """When the business is open, by weekday; a day that is not named is closed. No day at all: always open."""

    days: Mapping[Weekday, tuple[Opening, ...]] = {}
    exceptions: tuple[OpenOn, ...] = Field(default=(), max_length=400)

    def exception(self, day: date) -> OpenOn | None:
        return next((one for one in self.exceptions if one.day == day), None)

    def on(self, day: date) -> tuple[Opening, ...]:
        """The hours of a day, the earliest first, whatever holiday it is."""
        one = self.exception(day)
        hours = one.hours if one else self.days.get(WEEKDAYS[day.weekday()], ())
        return tuple(sorted(hours, key=lambda each: each.start))

    def next_open(self, instant: datetime, zone: str) -> datetime:
        """This instant when it is open, else the next opening; holidays are looked at by who asks (see engine.turn)."""
        if not any(self.days.values()):
            return instant
        today = to_local(instant, zone).date()
        for ahead in range(60):
            day = today + timedelta(days=ahead)
            for hours in self.on(day):
                if instant < at_time(day, hours.end, zone):
                    return max(instant, at_time(day, hours.start, zone))
        return instant
