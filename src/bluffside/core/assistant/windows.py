"""Days and times of day at which somebody would come."""

from dataclasses import dataclass, replace
from datetime import date, datetime, time

from bluffside.core.timing.weekdays import WEEKDAYS, Weekday


@dataclass(frozen=True, slots=True)
class Window:
    """Local days and times. From `first` to `last` day, both included (None: any day), on `weekdays` alone where some are named; from
    `start`, included, to `end`, which is not; or at one time, `at`."""

    first: date | None = None
    last: date | None = None
    weekdays: tuple[Weekday, ...] = ()
    start: time | None = None
    end: time | None = None
    at: time | None = None

    @property
    def has_days(self) -> bool:
        return self.first is not None or bool(self.weekdays)

    @property
    def has_times(self) -> bool:
        return (self.start, self.end, self.at) != (None, None, None)

    def on(self, day: date) -> "Window":
        """The same times on one day."""
        return replace(self, first=day, last=day, weekdays=())

    def with_times_of(self, other: "Window") -> "Window":
        return replace(self, start=other.start, end=other.end, at=other.at)

    def holds(self, moment: datetime) -> bool:
        """Whether a local moment lies in it."""
        day, clock = moment.date(), moment.time()
        if self.first and not self.first <= day <= (self.last or self.first):
            return False
        if self.weekdays and WEEKDAYS[day.weekday()] not in self.weekdays:
            return False
        if self.at is not None:
            return clock == self.at
        return (self.start is None or clock >= self.start) and (self.end is None or clock < self.end)

    def __str__(self) -> str:
        """As the table of what people write has them: "2026-03-07@15:00-", "sat+sun", "*@-12:00"."""
        days = "+".join(self.weekdays) or "*"
        if self.first:
            days = str(self.first) if self.last in (None, self.first) else f"{self.first}..{self.last}"
        if self.at is not None:
            return f"{days}@{self.at:%H:%M}"
        ends = [f"{one:%H:%M}" if one else "" for one in (self.start, self.end)]
        return f"{days}@{'-'.join(ends)}" if any(ends) else days
