"""Time: clock changes against RFC 5545, calendar days, sending hours."""

from datetime import UTC, datetime, time, timedelta

import pytest
from dateutil import tz
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.timing.durations import Duration, parse_elapsed
from bluffside.core.timing.hours import WEEKDAYS, SendingHours
from bluffside.core.timing.local import to_instant, to_local

ZONES = ["Europe/London", "America/New_York", "Australia/Hobart", "Australia/Lord_Howe", "Asia/Kolkata"]
instants = st.datetimes(datetime(2020, 1, 1), datetime(2035, 1, 1)).map(
    lambda d: d.replace(second=0, microsecond=0, tzinfo=UTC)
)


# RFC 5545, section 3.3.5, DATE-TIME, form 3: the two worked examples, by the offsets they name.
@pytest.mark.parametrize(
    ("local", "utc"),
    [
        # "TZID=America/New_York:20071104T013000 indicates November 4, 2007 at 1:30 A.M. EDT (UTC-04:00)"
        (datetime(2007, 11, 4, 1, 30), datetime(2007, 11, 4, 5, 30, tzinfo=UTC)),
        # "TZID=America/New_York:20070311T023000 indicates March 11, 2007 at 3:30 A.M. EDT (UTC-04:00)"
        (datetime(2007, 3, 11, 2, 30), datetime(2007, 3, 11, 7, 30, tzinfo=UTC)),
    ],
)
def test_local_times_at_clock_changes_are_read_as_rfc_5545_says(local: datetime, utc: datetime) -> None:
    assert to_instant(local, "America/New_York") == utc


@given(st.datetimes(datetime(2020, 1, 1), datetime(2035, 1, 1)), st.sampled_from(ZONES))
def test_local_times_agree_with_dateutil(local: datetime, zone: str) -> None:
    """python-dateutil, an independent implementation: resolve_imaginary moves skipped times by the gap."""
    other = tz.resolve_imaginary(local.replace(tzinfo=tz.gettz(zone), fold=0))
    assert to_instant(local, zone) == other.astimezone(UTC)


def test_a_day_is_of_the_calendar_and_24_hours_are_exact() -> None:
    """RFC 5545, section 3.3.6: a nominal day across a clock change is not 24 hours."""
    saturday = to_instant(datetime(2026, 3, 28, 9), "Europe/London")  # clocks go forward in the night
    assert to_local(Duration.parse("1 day").after(saturday, "Europe/London"), "Europe/London") == datetime(
        2026, 3, 29, 9
    )
    assert to_local(Duration.parse("24 hours").after(saturday, "Europe/London"), "Europe/London") == datetime(
        2026, 3, 29, 10
    )


@pytest.mark.parametrize(
    ("start", "months", "end"),
    [((2026, 1, 31), 1, (2026, 2, 28)), ((2028, 1, 31), 1, (2028, 2, 29)), ((2026, 12, 15), 2, (2027, 2, 15))],
)
def test_a_month_ends_on_the_last_day_where_its_day_does_not_exist(start, months, end) -> None:  # type: ignore[no-untyped-def]
    at = datetime(*start, 12, tzinfo=UTC)
    assert Duration(months, "month").after(at, "UTC") == datetime(*end, 12, tzinfo=UTC)


@given(st.integers(0, 99999), st.sampled_from(["minute", "hour", "day", "week", "month"]))
def test_a_duration_reads_back_as_written(amount: int, unit: str) -> None:
    assert Duration.parse(str(Duration(amount, unit))) == Duration(amount, unit)


@pytest.mark.parametrize("words", ["", "3", "days", "-1 days", "3 fortnights", "1.5 hours", "07 days"])
def test_what_is_not_a_duration_is_refused_with_an_example(words: str) -> None:
    with pytest.raises(ValueError, match="3 days"):
        Duration.parse(words)


def test_elapsed_times_are_words_or_iso_8601() -> None:
    assert parse_elapsed("PT3H30M") == timedelta(hours=3, minutes=30)
    assert parse_elapsed("P2D") == Duration(2, "day")
    assert parse_elapsed("3 hours") == Duration(3, "hour")


def brute_force(hours: SendingHours, instant: datetime, zone: str) -> datetime:
    """The definition itself: minute after minute until one is allowed."""
    while True:
        local = to_local(instant, zone)
        if WEEKDAYS[local.weekday()] in hours.weekdays and hours.start <= local.time() < hours.end:
            return instant
        instant += timedelta(minutes=1)


@given(
    instants,
    st.sampled_from(ZONES),
    st.sets(st.sampled_from(WEEKDAYS), min_size=2),
    st.sampled_from([(time(9), time(19)), (time(0, 30), time(3)), (time(22), time(23, 59))]),
)
def test_the_next_allowed_moment_is_the_first_one_and_never_earlier(instant, zone, days, window) -> None:  # type: ignore[no-untyped-def]
    hours = SendingHours(weekdays=tuple(days), start=window[0], end=window[1])
    found = hours.next_allowed(instant, zone)
    assert found == brute_force(hours, instant, zone) or _opens_in_a_gap(hours, found, zone)


def _opens_in_a_gap(hours: SendingHours, found: datetime, zone: str) -> bool:
    """A window whose opening a clock change touches opens at the instant RFC 5545 reads it as."""
    local = to_local(found, zone)
    return found == to_instant(datetime.combine(local.date(), hours.start), zone) or local.time() != hours.start
