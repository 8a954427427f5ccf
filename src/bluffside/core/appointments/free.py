"""When a type of appointment is free: opening hours (or the times it is given at) ∩ hours of who gives it ∩ what it needs, less
what is taken and the buffers around it, not sooner and not further ahead than the offer says.

Beginnings are wall-clock times of the account: counted from when a stretch of its day opens. Where the clocks go forward, a
beginning that the day does not have is left out; where they go back, one that it has twice is its first (RFC 5545, 3.3.5). How long it
takes is exact.
"""

from bisect import bisect_left
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from functools import cache
from typing import NamedTuple

from bluffside.core.appointments.offer import Offer
from bluffside.core.care.house import Care
from bluffside.core.care.quiet import Opening, OpeningHours
from bluffside.core.timing.local import at_or_when_skipped, to_instant, to_local

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
    """A beginning that can be booked; of a course, that of its first date. `members`, `things`: whoever, and whichever, is free
    then; none for a sitting that stands, which has them. `left`: how many places; 0: it is full, and one may wait."""

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
    """The beginnings on the account's days from the first to the last, in their order; full ones only where one may wait."""
    soonest, latest = now + timedelta(hours=offer.soonest_hours), now + timedelta(days=offer.ahead_days)
    looked_up = _LookedUp(offer, around)
    found: dict[datetime, Free] = {}
    for day in _days(
        max(first, to_local(soonest, around.zone).date()), min(last, to_local(latest, around.zone).date())
    ):
        if not offer.is_on(day):
            continue
        for start in _beginnings(day, offer, around):
            if soonest <= start <= latest and start not in found and (one := looked_up.course(start)):
                found[start] = one
    return [found[start] for start in sorted(found)]


def at_time_of(offer: Offer, around: Around, start: datetime) -> Free | None:
    """Who, and what, is free at one beginning, whether it is offered then or not; None where nobody, or nothing, is."""
    return _LookedUp(offer, around).course(start)


class _LookedUp:
    """What is known around an offer, in the order in which it is asked for."""

    def __init__(self, offer: Offer, around: Around) -> None:
        self.offer, self.around = offer, around
        self.standing = {one.start: one.left for one in around.sittings}
        self.gone = {one.number: _Taken(one.taken) for one in around.members}
        self.away = {one.number: _Taken(one.taken) for one in around.things}
        self.stretches = cache(self._stretches)

    def course(self, start: datetime) -> Free | None:
        """All its dates as one: they stand, or whoever and whatever is free on each of them."""
        dates = list(self.offer.beginnings(start, self.around.zone))
        stands = [one in self.standing for one in dates]
        if all(stands):
            left = min(self.standing[one] for one in dates)
            return Free(start, (), (), left) if left > 0 or self.offer.waiting_hours else None
        if any(stands):
            return None
        times = [self._time(one) for one in dates]
        members = tuple(one.number for one in self.around.members if all(self._can(one, at) for at in times))
        things = tuple(
            one.number
            for one in self.around.things
            if not any(self.away[one.number].meets(at.with_buffers) for at in times)
        )
        if (self.offer.members and not members) or (self.offer.things and not things):
            return None
        return Free(start, members, things, self.offer.places)

    def _time(self, start: datetime) -> "_Time":
        day = to_local(start, self.around.zone).date()
        return _Time(day, Span(start, start + self.offer.length), Span(*self.offer.takes(start)))

    def _can(self, one: Holder, at: "_Time") -> bool:
        if self.gone[one.number].meets(at.with_buffers):
            return False
        if one.hours is None or self.offer.begins:  # the opening hours hold, or the times it is given at
            return True
        hours = self.stretches(one.number, at.day)
        return any(each.start <= at.whole.start and at.whole.end <= each.end for each in hours)

    def _stretches(self, number: int, day: date) -> list[Span]:
        hours = next(one.hours for one in self.around.members if one.number == number)
        return _stretches(day, hours, self.around) if hours else []


class _Time(NamedTuple):
    """One date: its day for the account, and from when until when, without the buffers around it and with them."""

    day: date
    whole: Span
    with_buffers: Span


def _days(first: date, last: date) -> Iterator[date]:
    while first <= last:
        yield first
        first += timedelta(days=1)


def _beginnings(day: date, offer: Offer, around: Around) -> Iterator[datetime]:
    """At the times it begins, unless the day is closed. Else each from which all of it lies in the opening hours; without any, in
    the hours of who gives it."""
    if offer.begins:
        exception = around.care.opening.exception(day)
        if not around.care.closed(day) and (exception is None or exception.hours):
            yield from (
                one for each in offer.begins if (one := _on_the_clock(datetime.combine(day, each), around.zone))
            )
        return
    for local, stretch in _opening(day, around):
        while local.date() == day:
            start = _on_the_clock(local, around.zone)
            if start and start + offer.length > stretch.end:
                break
            if start and start >= stretch.start:
                yield start
            local += timedelta(minutes=offer.every)


def _on_the_clock(local: datetime, zone: str) -> datetime | None:
    """The instant of a local time; None where the clocks skip it."""
    start = to_instant(local, zone)
    return start if to_local(start, zone) == local else None


def _opening(day: date, around: Around) -> list[tuple[datetime, Span]]:
    """The hours of a day, each with the local time at which they are written to begin: the grid is counted from there, also
    where the clocks skip it."""
    if any(around.care.opening.days.values()) or around.care.opening.exception(day):
        hours = set(around.care.hours_on(day))
    elif around.care.closed(day):
        hours = set()
    else:
        hours = {one for member in around.members if member.hours for one in member.hours.on(day)}
    return sorted((datetime.combine(day, one.start), _span(day, one, around)) for one in hours)


def _stretches(day: date, hours: OpeningHours, around: Around) -> list[Span]:
    """Somebody's own hours on a day."""
    return [_span(day, one, around) for one in hours.on(day)]


def _span(day: date, hours: Opening, around: Around) -> Span:
    return Span(at_or_when_skipped(day, hours.start, around.zone), at_or_when_skipped(day, hours.end, around.zone))


def merged(spans: Iterable[Span]) -> list[Span]:
    """In their order and in no overlap; those that meet are one."""
    found: list[Span] = []
    for one in sorted(spans):
        if found and one.start <= found[-1].end:
            found[-1] = Span(found[-1].start, max(found[-1].end, one.end))
        else:
            found.append(one)
    return found


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
