"""When a type of appointment is free: opening hours ∩ hours of who gives it ∩ what it needs, less what is taken and the buffers
around it, not sooner and not further ahead than the offer says.

Beginnings are wall-clock times of the account: counted from when a stretch of its day opens. Where the clocks go forward, a
beginning that the day does not have is left out; where they go back, one that it has twice is its first (RFC 5545, 3.3.5). How long it
takes is exact.
"""

from bisect import bisect_left
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import NamedTuple

from bluffside.core.appointments.offer import Offer
from bluffside.core.care.house import Care
from bluffside.core.care.quiet import OpeningHours
from bluffside.core.timing.local import at_time, to_instant, to_local

MIDNIGHT = time()


class Span(NamedTuple):
    """From an instant to another, the second not included."""

    start: datetime
    end: datetime


@dataclass(frozen=True, slots=True)
class Holder:
    """Who gives an appointment, or what it needs: one of whom, or of which, can hold one at a time. `hours`: their own, where
    they have any; `taken`: their time that is gone, buffers inside, in no overlap."""

    number: int
    hours: OpeningHours | None = None
    taken: Sequence[Span] = ()


class Sitting(NamedTuple):
    """One that stands already, with places left in it."""

    start: datetime
    left: int


class Free(NamedTuple):
    """A beginning that can be booked. `members`, `things`: whoever, and whichever, is free then; none for a sitting that stands,
    which has them. `left`: how many places."""

    start: datetime
    members: tuple[int, ...]
    things: tuple[int, ...]
    left: int


class Around(NamedTuple):
    """What is known around an offer: who gives it, what it needs, what stands, the account's care and zone."""

    members: Sequence[Holder]
    things: Sequence[Holder]
    sittings: Sequence[Sitting]
    care: Care
    zone: str


def free(offer: Offer, around: Around, now: datetime, first: date, last: date) -> list[Free]:
    """The beginnings on the account's days from the first to the last, in their order."""
    soonest, latest = now + timedelta(hours=offer.soonest_hours), now + timedelta(days=offer.ahead_days)
    standing = {one.start: one.left for one in around.sittings}
    ends = (
        {one.number: _Taken(one.taken) for one in around.members},
        {one.number: _Taken(one.taken) for one in around.things},
    )
    found: dict[datetime, Free] = {}
    for day in _days(
        max(first, to_local(soonest, around.zone).date()), min(last, to_local(latest, around.zone).date())
    ):
        there = {one.number: _stretches(day, one.hours, around) for one in around.members}
        for start in _beginnings(day, offer, around):
            if not soonest <= start <= latest or start in found:
                continue
            if start in standing:
                if standing[start] > 0:
                    found[start] = Free(start, (), (), standing[start])
                continue
            whole = Span(start, start + timedelta(minutes=offer.minutes))
            gone = Span(start - timedelta(minutes=offer.before), whole.end + timedelta(minutes=offer.after))
            members = tuple(
                one.number
                for one in around.members
                if _inside(whole, there[one.number]) and not ends[0][one.number].meets(gone)
            )
            things = tuple(one.number for one in around.things if not ends[1][one.number].meets(gone))
            if (offer.members and not members) or (offer.things and not things):
                continue
            found[start] = Free(start, members, things, offer.places)
    return [found[start] for start in sorted(found)]


def has_hours(offer: Offer, around: Around) -> bool:
    """Whether anybody has said when it can be: the business's hours, or those of who gives it."""
    return any(around.care.opening.days.values()) or any(one.hours for one in around.members)


def _days(first: date, last: date) -> Iterator[date]:
    while first <= last:
        yield first
        first += timedelta(days=1)


def _beginnings(day: date, offer: Offer, around: Around) -> Iterator[datetime]:
    """Each beginning from which all of it lies in the opening hours; without any, in the hours of who gives it."""
    for stretch in _opening(day, around):
        local = to_local(stretch.start, around.zone)
        while True:
            start = to_instant(local, around.zone)
            if start + timedelta(minutes=offer.minutes) > stretch.end or local.date() > day:
                break
            if to_local(start, around.zone) == local and start >= stretch.start:  # else the clocks skip it
                yield start
            local += timedelta(minutes=offer.every)


def _opening(day: date, around: Around) -> list[Span]:
    if any(around.care.opening.days.values()) or around.care.opening.exception(day):
        return [
            Span(at_time(day, one.start, around.zone), at_time(day, one.end, around.zone))
            for one in around.care.hours_on(day)
        ]
    if around.care.closed(day):
        return []
    own = {span for one in around.members if one.hours for span in _stretches(day, one.hours, around)}
    return sorted(own)


def _stretches(day: date, hours: OpeningHours | None, around: Around) -> list[Span]:
    """Somebody's own hours on a day; without any, the whole of it: the opening hours hold."""
    if hours is None:
        return [Span(at_time(day, MIDNIGHT, around.zone), at_time(day + timedelta(days=1), MIDNIGHT, around.zone))]
    return [Span(at_time(day, one.start, around.zone), at_time(day, one.end, around.zone)) for one in hours.on(day)]


def _inside(whole: Span, stretches: Sequence[Span]) -> bool:
    return any(one.start <= whole.start and whole.end <= one.end for one in stretches)


class _Taken:
    """Spans in no overlap, looked up by halving."""

    def __init__(self, spans: Sequence[Span]) -> None:
        self.spans = sorted(spans)
        self.ends = [one.end for one in self.spans]

    def meets(self, span: Span) -> bool:
        at = bisect_left(self.ends, span.start)
        while at < len(self.spans) and self.spans[at].end <= span.start:
            at += 1
        return at < len(self.spans) and self.spans[at].start < span.end


def pick(offer: Offer, one: Free, in_hand: Mapping[int, int]) -> int | None:
    """Who gives it: as the offer says; of several with as much in hand the first. None where the business as a whole does."""
    if not one.members:
        return None
    order = [number for number in offer.members if number in one.members]
    return min(order, key=lambda number: in_hand.get(number, 0)) if offer.pick == "least" else order[0]
