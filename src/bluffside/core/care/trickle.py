"""Trickle: enrolling many contacts a few at a time, within days and hours, with the finishing date known ahead."""

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Literal, Self

from pydantic import Field, model_validator

from bluffside.core.care.calendar import HolidayCalendar
from bluffside.core.document_part import DocumentPart
from bluffside.core.timing.clock_times import ClockTime
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.timing.weekdays import WEEKDAYS, Weekdays, describe_days

LONGEST_DAYS = 3_660


class TooSlow(ValueError):
    """The plan would take more than ten years."""


@dataclass(frozen=True, slots=True)
class Portion:
    """So many contacts come in at one instant."""

    at: datetime
    count: int


class Trickle(DocumentPart):
    """`count` contacts each minute, hour or day, on these weekdays, from `start` (inclusive) to `end` (exclusive),
    local times of the account. By the day, all of a day's come in when it opens."""

    count: int = Field(default=10, ge=1, le=100_000)
    each: Literal["minute", "hour", "day"] = "day"
    weekdays: Weekdays = WEEKDAYS
    start: ClockTime = time(9)
    end: ClockTime = time(17)
    skip_holidays: bool = False

    @model_validator(mode="after")
    def _opens_before_closing(self) -> Self:
        if self.start >= self.end:
            raise ValueError("a trickle begins before it ends, on the same day")
        return self

    def plan(
        self, people: int, begin: datetime, zone: str, calendar: HolidayCalendar | None = None
    ) -> Iterator[Portion]:
        """The portions in order, from an instant on; together they hold all people. Raises TooSlow."""
        first = to_local(begin, zone).date()
        left = people
        for ahead in range(LONGEST_DAYS):
            if left <= 0:
                return
            day = first + timedelta(days=ahead)
            if WEEKDAYS[day.weekday()] not in self.weekdays:
                continue
            if self.skip_holidays and calendar and calendar.holiday(day):
                continue
            for at in self._moments(day, begin, zone):
                yield Portion(at, min(self.count, left))
                left -= self.count
                if left <= 0:
                    return
        raise TooSlow("at this speed it would take more than ten years")

    def _moments(self, day: date, begin: datetime, zone: str) -> Iterator[datetime]:
        opens, closes = at_time(day, self.start, zone), at_time(day, self.end, zone)
        at = max(opens, begin)
        if self.each == "day":
            if at < closes:
                yield at
            return
        step = timedelta(minutes=1) if self.each == "minute" else timedelta(hours=1)
        while at < closes:
            yield at
            at += step

    def finishes(
        self, people: int, begin: datetime, zone: str, calendar: HolidayCalendar | None = None
    ) -> datetime | None:
        """When the last portion comes in; None when there is nobody. Raises TooSlow."""
        last = deque(self.plan(people, begin, zone, calendar), maxlen=1)
        return last[0].at if last else None

    def describe(self) -> str:
        return f"{self.count} a {self.each}, {describe_days(self.weekdays)}, {self.start:%H:%M} to {self.end:%H:%M}"
