"""Time: clock changes against RFC 5545, calendar days, sending hours."""

from datetime import UTC, datetime, time, timedelta

import pytest
from dateutil import tz
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.engine.turn import Setting
from bluffside.core.steps.next_time import NextTime
from bluffside.core.timing.durations import Duration, parse_elapsed
from bluffside.core.timing.hours import WEEKDAYS, SendingHours
from bluffside.core.timing.local import to_instant, to_local
from bluffside.core.timing.recurrence import BadRule, in_words, parse_rule

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


def test_no_days_at_all_are_no_time_even_in_the_hour_that_occurs_twice() -> None:
    second_half_past_one = datetime(2026, 10, 25, 1, 30, tzinfo=UTC)  # in London, the second time that night
    assert Duration(0, "day").after(second_half_past_one, "Europe/London") == second_half_past_one


@given(
    instants,
    st.integers(0, 400),
    st.sampled_from(["second", "minute", "hour", "day", "week", "month"]),
    st.sampled_from(ZONES),
)
def test_a_duration_never_leads_back(instant: datetime, amount: int, unit: str, zone: str) -> None:
    length = Duration(amount, unit)
    assert length.before(instant, zone) <= instant <= length.after(instant, zone)


@pytest.mark.parametrize(
    ("start", "months", "end"),
    [((2026, 1, 31), 1, (2026, 2, 28)), ((2028, 1, 31), 1, (2028, 2, 29)), ((2026, 12, 15), 2, (2027, 2, 15))],
)
def test_a_month_ends_on_the_last_day_where_its_day_does_not_exist(start, months, end) -> None:  # type: ignore[no-untyped-def]
    at = datetime(*start, 12, tzinfo=UTC)
    assert Duration(months, "month").after(at, "UTC") == datetime(*end, 12, tzinfo=UTC)


@given(st.integers(0, 1_200), st.sampled_from(["second", "minute", "hour", "day", "week", "month"]))
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


# RFC 5545, section 3.8.5.3: worked examples with DTSTART in America/New_York at 09:00 (the dates from memory of its text).
@pytest.mark.parametrize(
    ("start", "rule", "dates"),
    [
        ("1997-09-02", "FREQ=DAILY;COUNT=10", [f"1997-09-{day:02}" for day in range(2, 12)]),
        ("1997-09-02", "FREQ=WEEKLY;INTERVAL=2;WKST=SU",
         ["1997-09-02", "1997-09-16", "1997-09-30", "1997-10-14", "1997-10-28", "1997-11-11", "1997-11-25"]),
        ("1997-09-02", "FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH",
         ["1997-09-02", "1997-09-04", "1997-09-09", "1997-09-11", "1997-09-16", "1997-09-18", "1997-09-23", "1997-09-25",
          "1997-09-30", "1997-10-02"]),
        ("1997-09-05", "FREQ=MONTHLY;COUNT=10;BYDAY=1FR",
         ["1997-09-05", "1997-10-03", "1997-11-07", "1997-12-05", "1998-01-02", "1998-02-06", "1998-03-06", "1998-04-03",
          "1998-05-01", "1998-06-05"]),
        ("1997-09-22", "FREQ=MONTHLY;COUNT=6;BYDAY=-2MO",
         ["1997-09-22", "1997-10-20", "1997-11-17", "1997-12-22", "1998-01-19", "1998-02-16"]),
        ("1997-09-28", "FREQ=MONTHLY;BYMONTHDAY=-3",
         ["1997-09-28", "1997-10-29", "1997-11-28", "1997-12-29", "1998-01-29", "1998-02-26"]),
        ("1997-09-02", "FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13",
         ["1998-02-13", "1998-03-13", "1998-11-13", "1999-08-13", "2000-10-13"]),
        ("1996-11-05", "FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8",
         ["1996-11-05", "2000-11-07", "2004-11-02"]),
    ],
)  # fmt: skip
def test_rules_come_round_as_in_the_examples_of_rfc_5545(start: str, rule: str, dates: list[str]) -> None:
    """Each pass of a loop takes the next time of the rule: at nine where the contact is, in summer and in winter."""
    zone = "America/New_York"
    at = to_instant(datetime.fromisoformat(f"{start} 09:00"), zone)
    step, setting = NextTime(id="n", rule=rule), Setting(zone, joined=at)
    found = []
    for _ in dates:
        aim = step.aim(at, setting)
        assert aim is not None
        at, setting.later_pass = aim.at, True
        found.append(to_local(at, zone))
    assert found == [datetime.fromisoformat(f"{day} 09:00") for day in dates]
    if "COUNT" in rule:
        assert step.aim(at, setting) is None  # and then it has come to its end


@pytest.mark.parametrize(
    "rule",
    [
        "",
        "WEEKLY",
        "FREQ=HOURLY",
        "FREQ=WEEKLY;BYDAY=XX",
        "FREQ=MONTHLY;BYMONTHDAY=31;BYMONTH=2",
        "FREQ=DAILY;DTSTART=1",
    ],
)
def test_a_rule_that_cannot_be_used_is_refused_in_words(rule: str) -> None:
    with pytest.raises(BadRule) as error:
        parse_rule(rule)
    assert str(error.value)


@pytest.mark.parametrize(
    ("rule", "words"),
    [
        ("FREQ=WEEKLY;BYDAY=TU", "every week on Tuesday"),
        ("FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,TH", "every 2 weeks on Tuesday and Thursday"),
        ("FREQ=MONTHLY;BYDAY=1TU", "every month on the first Tuesday"),
        ("FREQ=MONTHLY;BYMONTHDAY=-1;COUNT=6", "every month on the last day, 6 times"),
        ("FREQ=MONTHLY;BYMONTHDAY=1,15", "every month on day 1 and 15"),
        ("FREQ=YEARLY;BYMONTH=4", "every year (BYMONTH=4)"),
    ],
)
def test_a_rule_reads_as_words(rule: str, words: str) -> None:
    assert in_words(rule) == words
