"""When something that goes by lengths of time comes out otherwise, though nothing happens: on whole seconds.

A day before a moment is a day before by the clock on the wall, and a month ends where the other has no such day: so "in the last month" is
left on 28 March and true again on the 31st, and the hour that clocks repeat goes by twice. Where that may be, one looks again on each day,
or half hour (clocks change on these), and between two looks it turns once at most.
"""

from collections.abc import Callable, Iterator
from datetime import datetime, time, timedelta

from bluffside.core.timing.durations import Duration
from bluffside.core.timing.local import at_time, to_local, within_reach, zone_of

SECOND = timedelta(seconds=1)
DAY = timedelta(days=1)
HALF_HOUR = timedelta(minutes=30)


def whole_second(instant: datetime) -> datetime:
    """The instant itself, or the second after it."""
    cut = instant.replace(microsecond=0)
    return cut if cut == instant else cut + SECOND


def is_smooth(length: Duration, zone: str, *instants: datetime) -> bool:
    """Whether what is so long from one of the instants comes once, in order: by no month, and with no change of clocks near."""
    return length.is_exact or (length.unit != "month" and not any(_clocks_change(one, zone) for one in instants))


def turning(
    now: datetime, zone: str, length: Duration, since: datetime, near: datetime, is_so: Callable[[datetime], bool]
) -> Iterator[datetime]:
    """Instants after `now` at which `is_so` may come out otherwise, the next of them at least. It is about something at `since`, and
    turns about `near`, so long from it."""
    if is_smooth(length, zone, since, near):
        yield _turns(within_reach(near - DAY), within_reach(near + DAY), is_so)
        return
    around = 4 * DAY if length.unit == "month" else 2 * DAY
    if now < near - around:
        yield whole_second(within_reach(near - around))
    elif now <= near + around:
        uneven = _clocks_change(since, zone, around) or _clocks_change(near, zone, around)
        again = _half_hour(now) if uneven else at_time(to_local(now, zone).date() + DAY, time(), zone)
        yield again
        if is_so(now) != is_so(again - SECOND):
            yield _turns(now, again, is_so)


def _turns(low: datetime, high: datetime, is_so: Callable[[datetime], bool]) -> datetime:
    """The first whole second at which it is not any more as it is at the beginning."""
    low, high, before = whole_second(low), whole_second(high), is_so(low)
    while high - low > SECOND:
        middle = low + (high - low) // SECOND // 2 * SECOND
        low, high = (middle, high) if is_so(middle) == before else (low, middle)
    return high


def _half_hour(now: datetime) -> datetime:
    return now.replace(minute=now.minute // 30 * 30, second=0, microsecond=0) + HALF_HOUR


def _clocks_change(instant: datetime, zone: str, around: timedelta = DAY) -> bool:
    before, after = (within_reach(one).astimezone(zone_of(zone)) for one in (instant - around, instant + around))
    return before.utcoffset() != after.utcoffset()
