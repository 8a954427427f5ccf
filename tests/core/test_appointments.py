"""When appointments are free: against a reading minute by minute, across clock changes, and at the edges of what is taken."""

from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bluffside.core.appointments.free import Around, Free, Holder, Sitting, Span, free, pick
from bluffside.core.appointments.offer import Offer
from bluffside.core.care.house import Care
from bluffside.core.care.quiet import OpeningHours
from bluffside.core.timing.local import to_local
from bluffside.core.timing.weekdays import WEEKDAYS

# Around the days on which the clocks of each change in 2026 (IANA; from memory: the last Sundays of March and October in Europe,
# the first of April and October in Hobart, the second of March in New York; none in Phoenix).
ZONES = {"Europe/London": date(2026, 3, 28), "Australia/Hobart": date(2026, 4, 4), "America/New_York": date(2026, 3, 7),
         "America/Phoenix": date(2026, 10, 24)}  # fmt: skip
halves = st.tuples(st.integers(0, 46), st.integers(1, 24)).map(lambda two: (two[0], min(47, sum(two))))
stretch = halves.map(lambda two: (time(two[0] // 2, two[0] % 2 * 30), time(two[1] // 2, two[1] % 2 * 30)))


def week(days: dict[Any, list[tuple[time, time]]]) -> OpeningHours:
    return OpeningHours.model_validate(
        {"days": {day: [{"start": a, "end": b} for a, b in hours] for day, hours in days.items()}}
    )


hours = st.builds(
    week,
    st.dictionaries(
        st.sampled_from(WEEKDAYS),
        st.lists(stretch, min_size=1, max_size=2),
        min_size=3,
    ),
)
offers = st.builds(
    Offer, minutes=st.sampled_from([15, 45, 60, 90]), before=st.sampled_from([0, 10]), after=st.sampled_from([0, 20]),
    every=st.sampled_from([15, 30, 60]), soonest_hours=st.sampled_from([0, 3, 30]), ahead_days=st.sampled_from([1, 2, 30]),
    members=st.just((1, 2)), things=st.sampled_from([(), (7,)]), places=st.sampled_from([1, 4]),
    begins=st.sampled_from([(), (), (time(1, 30), time(18))]), weekdays=st.sampled_from([WEEKDAYS, WEEKDAYS[4:]]),
    dates=st.sampled_from([1, 1, 3]), apart=st.sampled_from([1, 2]), waiting_hours=st.sampled_from([0, 12]),
)  # fmt: skip


def spans(zone: str) -> Any:
    begin = datetime.combine(ZONES[zone], time(), ZoneInfo(zone)).astimezone(UTC)
    span = st.tuples(st.integers(0, 60 * 60), st.integers(10, 300)).map(
        lambda two: Span(begin + timedelta(minutes=two[0]), begin + timedelta(minutes=sum(two)))
    )
    return st.lists(span, max_size=3).map(_apart)


def _apart(some: list[Span]) -> list[Span]:
    found: list[Span] = []
    for one in sorted(some):
        if not found or found[-1].end <= one.start:
            found.append(one)
    return found


def by_the_minute(offer: Offer, around: Around, now: datetime, first: date, last: date) -> set[datetime]:
    """The same, read the slow way: each minute of the days is asked everything."""
    found = set()
    instant = datetime.combine(first, time(), ZoneInfo(around.zone)).astimezone(UTC)
    while (local := to_local(instant, around.zone)).date() <= last:
        if _can_begin(offer, around, now, instant, local):
            found.add(instant)
        instant += timedelta(minutes=1)
    return found


def _can_begin(offer: Offer, around: Around, now: datetime, start: datetime, local: datetime) -> bool:
    zone = ZoneInfo(around.zone)
    if start < now + timedelta(hours=offer.soonest_hours) or start > now + timedelta(days=offer.ahead_days):
        return False
    if local.replace(tzinfo=zone, fold=0).astimezone(UTC) != start:
        return False  # the second of two
    day = local.date()
    if WEEKDAYS[day.weekday()] not in offer.weekdays or around.care.closed(day):
        return False
    if not (local.time() in offer.begins if offer.begins else _on_the_grid(offer, around, start, local)):
        return False
    later = [local + timedelta(days=offer.apart * n) for n in range(1, offer.dates)]
    dates = [start, *(one.replace(tzinfo=zone, fold=0).astimezone(UTC) for one in later)]
    standing = {one.start: one.left for one in around.sittings}
    if all(one in standing for one in dates):
        return bool(offer.waiting_hours) or all(standing[one] for one in dates)
    if any(one in standing for one in dates):
        return False

    def can(one: Holder) -> bool:
        return all(_is_free(one, offer, around, at) for at in dates)

    return any(map(can, around.members)) and (not offer.things or any(map(can, around.things)))


def _minutes(offer: Offer, start: datetime) -> list[datetime]:
    return [start + timedelta(minutes=n) for n in range(offer.minutes)]


def _within(stretch: Any, day: date, at: datetime, zone: str) -> bool:
    local = to_local(at, zone)
    return local.date() == day and stretch.start <= local.time() < stretch.end


def _on_the_grid(offer: Offer, around: Around, start: datetime, local: datetime) -> bool:
    day, minutes = local.date(), _minutes(offer, start)
    for stretch in around.care.opening.on(day):
        steps = (local - datetime.combine(day, stretch.start)).total_seconds() / 60
        ends = datetime.combine(day, stretch.end, ZoneInfo(around.zone)).astimezone(UTC)
        whole = all(_within(stretch, day, at, around.zone) for at in minutes) and minutes[-1] < ends
        if steps >= 0 and steps % offer.every == 0 and whole:
            return True
    return False


def _is_free(one: Holder, offer: Offer, around: Around, start: datetime) -> bool:
    gone = [start + timedelta(minutes=n) for n in range(-offer.before, offer.minutes + offer.after)]
    if any(span.start <= at < span.end for span in one.taken for at in gone):
        return False
    day, minutes = to_local(start, around.zone).date(), _minutes(offer, start)
    if one.hours is None or offer.begins:
        return True
    return any(all(_within(stretch, day, at, around.zone) for at in minutes) for stretch in one.hours.on(day))


@pytest.mark.parametrize("zone", ZONES)
def test_what_is_free_is_what_each_minute_says(zone: str) -> None:
    first = ZONES[zone]
    begin = datetime.combine(first, time(), ZoneInfo(zone)).astimezone(UTC)

    @settings(max_examples=10, deadline=None)
    @given(
        offer=offers, opening=hours, own=st.none() | hours, taken=st.tuples(*[spans(zone)] * 3), left=st.integers(0, 2)
    )
    def same(offer: Offer, opening: OpeningHours, own: Any, taken: Any, left: int) -> None:
        members = [Holder(1, own, taken[0]), Holder(2, None, taken[1])]
        things = [Holder(7, None, taken[2])] if offer.things else []
        around = Around(members, things, [], Care(opening=opening), zone)
        now = begin - timedelta(hours=2)
        last = first + timedelta(days=2)
        found = free(offer, around, now, first, last)
        assert {one.start for one in found} == by_the_minute(offer, around, now, first, last)
        if found:  # the first of them stands already, with so many places left
            stands = around._replace(sittings=[Sitting(found[0].start, left)])
            again = {one.start: one for one in free(offer, stands, now, first, last)}
            assert {*again} == by_the_minute(offer, stands, now, first, last)
            if offer.dates == 1:
                assert (found[0].start in again) == bool(left or offer.waiting_hours)
                assert found[0].start not in again or again[found[0].start] == Free(found[0].start, (), (), left)

    same()


def test_a_clock_that_goes_forward_leaves_out_what_the_day_does_not_have() -> None:
    """Europe/London, 29 March 2026: 01:00 to 02:00 is not there, and 25 October has it twice."""
    care = Care(opening=week({day: [(time(0), time(4))] for day in WEEKDAYS}))
    around = Around([], [], [], care, "Europe/London")
    offer = Offer(minutes=30, every=30, soonest_hours=0, ahead_days=366)

    eve = datetime(2026, 3, 28, tzinfo=UTC)

    def local(day: date) -> list[str]:
        now = datetime.combine(day, time(), UTC) - timedelta(days=1)
        return [f"{to_local(one.start, 'Europe/London'):%H:%M}" for one in free(offer, around, now, day, day)]

    assert local(date(2026, 3, 29)) == ["00:00", "00:30", "02:00", "02:30", "03:00", "03:30"]
    some = [
        (time(0), time(1, 30)),
        (time(1), time(1, 45)),
        (time(1, 15), time(3)),
        (time(0, 45), time(2, 45)),
        (time(0), time(2, 30)),
    ]
    hours = [around.care.model_copy(update={"opening": week({"sun": [one]})}) for one in some]
    found = [
        [
            f"{to_local(one.start, 'Europe/London'):%H:%M}"
            for one in free(offer, around._replace(care=care), eve, day, day)
        ]
        for care in hours
        for day in [date(2026, 3, 29)]
    ]
    grid = [["00:00", "00:30"], [], ["02:15"], ["00:45", "02:15"], ["00:00", "00:30", "02:00"]]
    assert found == grid, "of hours in the gap there is nothing, and times are counted from when they would have begun"
    assert local(date(2026, 10, 25)) == ["00:00", "00:30", "01:00", "01:30", "02:00", "02:30", "03:00", "03:30"]


def test_a_holiday_is_closed_and_buffers_meet_what_stands_before_and_after() -> None:
    opening = week({day: [(time(9), time(12))] for day in WEEKDAYS})
    care = Care(opening=opening, holidays={"country": "GB", "region": "ENG"})  # type: ignore[arg-type]  # as it is written
    at = datetime(2026, 4, 7, 8, tzinfo=UTC)  # 09:00 in London; Good Friday is 3 April (from memory)
    taken = [Span(at + timedelta(minutes=60), at + timedelta(minutes=90))]
    around = Around([Holder(1, None, taken)], [], [], care, "Europe/London")
    offer = Offer(minutes=30, before=0, after=30, every=30, members=(1,))
    now = datetime(2026, 4, 1, tzinfo=UTC)
    assert free(offer, around, now, date(2026, 4, 3), date(2026, 4, 3)) == []
    found = [
        f"{to_local(one.start, 'Europe/London'):%H:%M}"
        for one in free(offer, around, now, date(2026, 4, 7), date(2026, 4, 7))
    ]
    assert found == ["09:00", "10:30", "11:00", "11:30"]


@pytest.mark.parametrize(
    ("how", "in_hand", "who"),
    [("least", {1: 3, 2: 1}, 2), ("least", {}, 2), ("first", {2: 9}, 2), ("least", {2: 1, 1: 1}, 2)],
)
def test_who_of_several_gives_it(how: Any, in_hand: dict[int, int], who: int) -> None:
    one = Free(datetime(2026, 4, 7, 9, tzinfo=UTC), (1, 2), (), 1)
    assert pick(Offer(members=(2, 1), pick=how), one, in_hand) == who
    assert pick(Offer(), one._replace(members=()), in_hand) is None
