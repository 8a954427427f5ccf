"""Times to choose from, on pages that anybody sees: the days as lines, in the visitor's own zone."""

from collections.abc import Mapping
from datetime import UTC, date, datetime, timedelta
from functools import cache
from typing import Any, NamedTuple

from babel.core import get_global

from bluffside.core.appointments.free import Free
from bluffside.core.timing.local import known_zone, to_local
from bluffside.core.words import place, time_in, weekday_in
from bluffside.server.appointments import offering
from bluffside.server.appointments.models import AppointmentType
from bluffside.server.diary.models import Appointment
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account

DAYS = 14  # that are shown at a time
OFFERED = 3  # in a message
APART = timedelta(hours=2)  # at least, so that who cannot come at one may at the next


class Time(NamedTuple):
    """`at`: the instant, as it stands in an address; `words` in the visitor's zone; `left`: what is said of its places; `full`: one
    can only wait for it."""

    at: str
    words: str
    left: str
    chosen: bool
    full: bool


def times_page(one: AppointmentType, asked: Mapping[str, str], but: Appointment | None = None) -> dict[str, Any]:
    """What appointments/days.html shows of what is asked for: `from` a day on, in a `zone`, with a time chosen (`at`). `but`: the
    appointment that is to be moved."""
    account, offer = one.account, offering.offer_of(one)
    zone, today = zone_asked(asked, one), to_local(clock.now(), account.zone).date()
    last = today + timedelta(days=offer.ahead_days)
    chosen = instant_of(asked.get("at", ""))
    begin = _day(asked.get("from", "")) or (to_local(chosen, account.zone).date() if chosen else today)
    first = min(max(begin, today), last)
    own = offering.alone_in(but) if but else ()
    free = offering.free_times(one, first, first + timedelta(days=DAYS - 1), own)
    if not free and not asked.get("from"):  # the first days that have any
        rest = offering.free_times(one, first, last, own)
        first = to_local(rest[0].start, account.zone).date() if rest else first
        free = [each for each in rest if to_local(each.start, account.zone).date() < first + timedelta(days=DAYS)]
    found = next((each for each in free if each.start == chosen), None)
    later = first + timedelta(days=DAYS)
    return {
        "zone": zone, "zone_chosen": bool(asked.get("zone")), "zones": _zones(one, zone), "first": first.isoformat(),
        "days": _days(free, zone, account.language, chosen, offer.places),
        "later": later.isoformat() if later <= last else "",
        "sooner": max(today, first - timedelta(days=DAYS)).isoformat() if first > today else "",
        "gone": bool(chosen and not found),
        "chosen": asked.get("at", "") if found else "", "full": bool(found and not found.left),
        "when": when(found.start, zone, account.language) if found else "",
        "chosen_dates": [when(each, zone, account.language) for each in offer.beginnings(found.start, account.zone)] if found else [],
    }  # fmt: skip


def next_free(account: Account, name: str) -> list[tuple[datetime, str]]:
    """The next free beginnings of a type whose page is open, some hours apart, with the address at which each is chosen."""
    one = offering.open_types(account).filter(name=name).first()
    if one is None:
        return []
    found: list[datetime] = []
    for each in first_free(one, timedelta(days=DAYS)):
        if not found or each.start >= found[-1] + APART:
            found.append(each.start)
    return [(start, f"{offering.page_of(one)}?at={as_asked(start)}") for start in found[:OFFERED]]


def first_free(one: AppointmentType, within: timedelta) -> list[Free]:
    """What can be booked, of the first days that have any."""
    today = to_local(clock.now(), one.account.zone).date()
    for last in (today + within, today + timedelta(days=offering.offer_of(one).ahead_days)):
        if free := [each for each in offering.free_times(one, today, last) if each.left]:
            return [each for each in free if each.start < free[0].start + within]
    return []


def as_asked(start: datetime) -> str:
    """An instant as it stands in an address."""
    return start.astimezone(UTC).isoformat().replace("+00:00", "Z")


def when(instant: datetime, zone: str, language: str) -> str:
    local = to_local(instant, zone)
    return f"{weekday_in(language, local.date())}, {time_in(language, local)}"


def zone_asked(asked: Mapping[str, str], one: AppointmentType) -> str:
    """The zone that a visitor chose; the account's where it is none."""
    try:
        return known_zone(asked.get("zone", "")[:64]) or one.account.zone
    except ValueError:
        return one.account.zone


def instant_of(text: str) -> datetime | None:
    try:
        found = datetime.fromisoformat(text[:30])
    except ValueError:
        return None
    return found.astimezone(UTC) if found.tzinfo else None


def _days(free: list[Free], zone: str, language: str, chosen: datetime | None, places: int) -> list[dict[str, Any]]:
    """By the visitor's own days."""
    found: dict[date, list[Time]] = {}
    for one in free:
        local = to_local(one.start, zone)
        left = (
            "full" if not one.left else "" if places == 1 else "last place" if one.left == 1 else f"{one.left} places"
        )
        time = Time(as_asked(one.start), time_in(language, local), left, one.start == chosen, not one.left)
        found.setdefault(local.date(), []).append(time)
    return [
        {"words": weekday_in(language, day), "times": times, "chosen": any(one.chosen for one in times)}
        for day, times in found.items()
    ]


def _zones(one: AppointmentType, chosen: str) -> list[tuple[str, str, bool]]:
    """Zones to choose from, by the names of their cities; what is chosen stands among them whatever it is."""
    known = dict(_cities()) | {name: place(name) for name in (one.account.zone, chosen)}
    return sorted(((name, words, name == chosen) for name, words in known.items()), key=lambda each: each[1])


@cache
def _cities() -> tuple[tuple[str, str], ...]:
    """Those that are some country's (CLDR)."""
    return tuple((name, place(name)) for name in get_global("zone_territories") if "/" in name)


def _day(text: str) -> date | None:
    try:
        return date.fromisoformat(text[:10])
    except ValueError:
        return None
