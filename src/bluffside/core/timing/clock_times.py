"""Dates and times as documents write them: "09:30", "2026-03-02", "2026-03-02T09:00". Each is local, where the contact
is, and says so when somebody writes an offset; what a number could be taken for is refused."""

import contextlib
import re
from datetime import date, datetime, time
from typing import Annotated, Any

from pydantic import AfterValidator, BeforeValidator, PlainSerializer

from bluffside.core.timing.local import FIRST, LAST

_CLOCK = re.compile(r"([01]\d|2[0-3]):[0-5]\d(:[0-5]\d)?")


def clock_time(written: Any) -> time:
    """A time of day. Raises ValueError in words."""
    if isinstance(written, time) and written.tzinfo is None:
        return written
    if not isinstance(written, str) or not _CLOCK.fullmatch(written):
        raise ValueError(f"“{_short(written)}” is not a time of day; write one like 09:30, the clock where they are")
    return time.fromisoformat(written)


def day_in_reach(day: date) -> date:
    """The day, when Bluffside reckons that far. Raises ValueError in words."""
    if not FIRST.year <= day.year < LAST.year:
        raise ValueError(f"the year {day.year} is out of reach; write one from {FIRST.year} to {LAST.year - 1}")
    return day


def calendar_day(written: Any) -> date:
    """A day of the calendar. Raises ValueError in words."""
    if isinstance(written, date) and not isinstance(written, datetime):
        return day_in_reach(written)
    try:
        return day_in_reach(date.fromisoformat(written if isinstance(written, str) and len(written) == 10 else ""))
    except ValueError as error:
        if "out of reach" in str(error):
            raise
        raise ValueError(f"“{_short(written)}” is not a date; write one like 2026-03-01") from None


def _moment(written: Any) -> datetime:
    if isinstance(written, str):
        with contextlib.suppress(ValueError):
            written = datetime.fromisoformat(written)
    if not isinstance(written, datetime):
        raise ValueError(f"“{_short(written)}” is not a moment; write one like 2026-03-02T09:00")
    day_in_reach(written.date())
    return written


def _local(moment: datetime) -> datetime:
    if moment.tzinfo:
        raise ValueError("a local time is written without an offset, like 2026-03-02T09:00")
    return moment


def _short(written: Any) -> str:
    said = str(written)
    return said if len(said) <= 40 else f"{said[:40]}…"


ClockTime = Annotated[
    time, BeforeValidator(clock_time), PlainSerializer(lambda value: value.strftime("%H:%M"), return_type=str)
]
Day = Annotated[date, BeforeValidator(calendar_day)]
Moment = Annotated[datetime, BeforeValidator(_moment)]  # local, or with an offset of its own
LocalMoment = Annotated[datetime, BeforeValidator(_moment), AfterValidator(_local)]
