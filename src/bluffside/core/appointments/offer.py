"""What a type of appointment offers to whoever books it."""

from collections.abc import Iterator
from datetime import date, datetime, timedelta
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from bluffside.core.document_part import DocumentPart
from bluffside.core.timing.clock_times import ClockTime, Day
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.timing.weekdays import WEEKDAYS, Weekdays

Minutes = Annotated[int, Field(ge=0, le=480)]


class Offer(DocumentPart):
    """
    minutes         how long it takes
    before, after   minutes around it in which whoever gives it, and what it needs, are not free either
    every           minutes from one beginning to the next, counted from when the day opens
    begins          times of day at which it begins, open or not; none: every so many minutes while it is open
    weekdays, on    the days on which it begins: these weekdays; of them only these dates, where any are named
    dates, apart    a course: so many dates, so many days apart, booked as one
    soonest_hours   how long before it at the latest one may book
    ahead_days      how far ahead
    change_hours    until how long before it one may move or cancel by oneself
    members         who gives it, by their numbers; each is enough. Nobody: the business as a whole
    pick            who of several that are free: who has least in hand that week, or the first of them
    things          what it needs, by number: one of these is enough. Nothing: it needs none
    places          how many people fit at once
    waiting_hours   how long whoever waits for a place has to take one that came free; 0: there is no waiting list
    where           at a place, by phone, or by a link; `place` says where
    form            the number of the form whose questions are asked, too; 0: none
    calendar        whether who books is sent an entry for their calendar, by email
    """

    minutes: int = Field(default=60, ge=5, le=1_440)
    before: Minutes = 0
    after: Minutes = 0
    every: int = Field(default=30, ge=5, le=1_440)
    begins: tuple[ClockTime, ...] = Field(default=(), max_length=24)
    weekdays: Weekdays = WEEKDAYS
    on: tuple[Day, ...] = Field(default=(), max_length=100)
    dates: int = Field(default=1, ge=1, le=30)
    apart: int = Field(default=7, ge=1, le=60)
    soonest_hours: int = Field(default=2, ge=0, le=2_160)
    ahead_days: int = Field(default=60, ge=1, le=366)
    change_hours: int = Field(default=24, ge=0, le=2_160)
    members: tuple[int, ...] = Field(default=(), max_length=100)
    pick: Literal["least", "first"] = "least"
    things: tuple[int, ...] = Field(default=(), max_length=100)
    places: int = Field(default=1, ge=1, le=500)
    waiting_hours: int = Field(default=0, ge=0, le=336)
    where: Literal["place", "phone", "link"] = "place"
    place: str = Field(default="", max_length=200)
    price: str = Field(default="", max_length=80)
    about: str = Field(default="", max_length=500)
    thanks: str = Field(default="", max_length=300)
    form: int = Field(default=0, ge=0)
    calendar: bool = True

    @model_validator(mode="after")
    def _dates_do_not_meet(self) -> Self:
        if self.dates > 1 and self.apart * 1_440 < self.minutes + self.before + self.after:
            raise ValueError("its dates would lie over one another")
        return self

    @property
    def length(self) -> timedelta:
        return timedelta(minutes=self.minutes)

    def is_on(self, day: date) -> bool:
        """Whether it may begin on a day of the account's."""
        return WEEKDAYS[day.weekday()] in self.weekdays and (not self.on or day in self.on)

    def beginnings(self, start: datetime, zone: str) -> Iterator[datetime]:
        """When each of its dates begins, where the first does at an instant: at the same time of day in the account's zone."""
        local = to_local(start, zone)
        yield start
        for number in range(1, self.dates):
            yield at_time(local.date() + timedelta(days=number * self.apart), local.time(), zone)

    def takes(self, start: datetime) -> tuple[datetime, datetime]:
        """From when until when whoever gives it, and what it needs, are taken by one that begins at an instant."""
        return start - timedelta(minutes=self.before), start + self.length + timedelta(minutes=self.after)
