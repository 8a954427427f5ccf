"""A wall-clock time in a zone, as an instant.

The rules are those of RFC 5545, section 3.3.5:
  - a local time that occurs twice (clocks go back) is its first occurrence;
  - a local time that a clock change skips is read with the offset before the gap.
`zoneinfo` with fold=0 follows both.

Bluffside reckons from FIRST to LAST. What lies outside (a birthday in the year 1, a hundred waits of a hundred years) is
taken for the nearer of the two, so that nothing that is only reckoned can fail.
"""

from datetime import UTC, date, datetime, time, timedelta
from functools import cache, lru_cache
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

FIRST = datetime(1800, 1, 1, tzinfo=UTC)
LAST = datetime(2200, 1, 1, tzinfo=UTC)


def within_reach(instant: datetime) -> datetime:
    """The instant, or the end of time that it lies beyond."""
    return min(max(instant, FIRST), LAST)


@cache
def zone_of(name: str) -> ZoneInfo:
    """The zone of an IANA name. Raises ValueError in words when there is none of that name."""
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise ValueError(f"“{name}” is not a time zone; use a name like Europe/London") from None


def known_zone(name: str) -> str:
    """The name of a zone, or none. Raises ValueError in words when there is none of that name."""
    if name:
        zone_of(name)
    return name


def to_local(instant: datetime, zone: str) -> datetime:
    """The instant as a naive wall-clock time in the zone."""
    return instant.astimezone(zone_of(zone)).replace(tzinfo=None)


def to_instant(local: datetime, zone: str) -> datetime:
    """A naive wall-clock time in the zone as an instant in UTC."""
    try:
        return local.replace(tzinfo=zone_of(zone), fold=0).astimezone(UTC)
    except OverflowError:  # in the first or the last hours of the calendar
        return FIRST if local.year < FIRST.year else LAST


@lru_cache(maxsize=20_000)
def at_time(day: date, moment: time, zone: str) -> datetime:
    """That time of day on that day in the zone, as an instant. Kept, since many people share days and zones."""
    return to_instant(datetime.combine(day, moment), zone)


def at_or_when_skipped(day: date, moment: time, zone: str) -> datetime:
    """That time of day as an instant; one that the clocks skip is the instant at which they do: hours that begin or end then have
    nothing of what is not there."""
    at = at_time(day, moment, zone)
    gap = to_local(at, zone) - datetime.combine(day, moment)
    if not gap:
        return at
    after, low, high = at.astimezone(zone_of(zone)).utcoffset(), at - gap, at
    while high - low > timedelta(seconds=1):
        middle = low + timedelta(seconds=(high - low) // timedelta(seconds=2))
        low, high = (low, middle) if middle.astimezone(zone_of(zone)).utcoffset() == after else (middle, high)
    return high


def next_clock_change(after: datetime, zone: str, within: int = 400) -> date | None:
    """The next local day on which the zone's clocks change; None when they do not within so many days."""
    day = to_local(after, zone).date()
    for ahead in range(within):
        today, next_day = (day + timedelta(days=ahead + n) for n in (0, 1))
        midnight, after_it = (datetime.combine(one, time(), zone_of(zone)) for one in (today, next_day))
        if midnight.utcoffset() != after_it.utcoffset():
            return today
    return None
