"""The page that anybody books on: the days as lines with their times, in the account's brand. It works without scripts: times are
links, and the one that is chosen opens what is asked, below its day."""

from collections.abc import Mapping
from datetime import UTC, date, datetime, timedelta
from functools import cache
from typing import Any, NamedTuple

from babel.core import get_global
from django.core.cache import cache as kept
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_http_methods

from bluffside.core.appointments.free import Free
from bluffside.core.timing.local import known_zone, to_local
from bluffside.core.words import place, time_in, weekday_in
from bluffside.server import sql
from bluffside.server.appointments import booking, offering
from bluffside.server.appointments.models import AppointmentType
from bluffside.server.people import proposals
from bluffside.server.people.import_rows import split_name
from bluffside.server.people.services import BadContact, normalised
from bluffside.server.people.signed import keyed
from bluffside.server.practice import clock
from bluffside.server.practice.brand import contact_page
from bluffside.server.practice.origin import address_of
from bluffside.server.practice.walls import within

DAYS = 14  # that are shown at a time
LARGEST = 20_000  # bytes of what is sent
AN_HOUR = 20  # bookings from one place
HONEYPOT = "website"
ASKED = ("name", "email", "mobile")


class Time(NamedTuple):
    """`at`: the instant, as it stands in an address; `words` in the visitor's zone."""

    at: str
    words: str
    left: str
    chosen: bool


@csrf_exempt  # nobody is signed in; nothing is done for whoever is
@require_http_methods(["GET", "POST"])
def book_page(request: HttpRequest, token: str) -> HttpResponse:
    if int(request.META.get("CONTENT_LENGTH") or 0) > LARGEST:
        return HttpResponse("That is more than is asked here.", status=413, content_type="text/plain")
    found = sql.rows("SELECT bluffside_account_of(%s, %s)", ["book", sql.plain(token)])[0][0]
    if found is None:
        raise Http404
    with within(int(found)):
        one = get_object_or_404(AppointmentType.objects.select_related("account"), token=sql.plain(token))
        if not one.open:
            return contact_page(request, "appointments/book.html", one.account, 410, type=one, closed=True)
        return _send(request, one) if request.method == "POST" else _show(request, one)


def _show(
    request: HttpRequest,
    one: AppointmentType,
    faults: Mapping[str, str] | None = None,
    said: str = "",
    status: int = 200,
) -> HttpResponse:
    asked = request.POST if request.method == "POST" else request.GET
    zone, offer = _zone(asked.get("zone", ""), one), offering.offer_of(one)
    first, today = _day(asked.get("from", "")), to_local(clock.now(), one.account.zone).date()
    first = min(max(first or today, today), today + timedelta(days=offer.ahead_days))
    chosen = _instant(asked.get("at", ""))
    free = offering.free_times(one, first, first + timedelta(days=DAYS - 1))
    if not free and not asked.get("from"):  # the first days that have any
        rest = offering.free_times(one, first, first + timedelta(days=offer.ahead_days))
        first = to_local(rest[0].start, one.account.zone).date() if rest else first
        free = [each for each in rest if to_local(each.start, one.account.zone).date() < first + timedelta(days=DAYS)]
    last = today + timedelta(days=offer.ahead_days)
    later = first + timedelta(days=DAYS)
    return contact_page(
        request, "appointments/book.html", one.account, status, type=one, offer=offer, zone=zone,
        zones=_zones(one, zone), town=place(zone), days=_days(free, zone, one.account.language, chosen, offer.places), first=first.isoformat(),
        later=later.isoformat() if later <= last else "", sooner=max(today, first - timedelta(days=DAYS)).isoformat() if first > today else "",
        chosen=asked.get("at", "") if any(each.start == chosen for each in free) else "",
        when=_when(chosen, zone, one.account.language) if chosen else "", typed={name: asked.get(name, "")[:200] for name in ASKED}, faults=faults or {},
        said=said,
    )  # fmt: skip


def _send(request: HttpRequest, one: AppointmentType) -> HttpResponse:
    """What is typed is never lost: whatever is wrong is said beside it."""
    start = _instant(request.POST.get("at", ""))
    if start is None:
        return _show(request, one, said="Choose a time first.", status=422)
    own, faults = _who(one, request.POST)
    if faults:
        return _show(request, one, faults, status=422)
    if request.POST.get(HONEYPOT) or _too_many(request):
        return _show(request, one, said="That could not be booked here. Please ring us.", status=429)
    account = one.account
    try:
        contact = proposals.come_in(account, proposals.Stated(own, {}, [], f"by booking “{one.name}”"))
        made = booking.book(one, contact, start)
    except BadContact as error:
        return _show(request, one, error.faults, status=422)
    except booking.NotFree as error:
        return _show(request, one, said=f"{error} These are free now.", status=409)
    offer = offering.offer_of(one)
    zone = _zone(request.POST.get("zone", ""), one)
    return contact_page(
        request,
        "appointments/book.html",
        account,
        type=one,
        offer=offer,
        done=_when(made.start, zone, account.language),
        zone=zone,
    )


def _who(one: AppointmentType, given: Mapping[str, str]) -> tuple[dict[str, str], dict[str, str]]:
    """The visitor's own fields, and what is wrong with them."""
    typed = {name: sql.plain(given.get(name, "")).strip()[:200] for name in ASKED}
    own: dict[str, str] = {}
    faults: dict[str, str] = {}
    if not typed["name"]:
        faults["name"] = "Please say who you are."
    for name in ("email", "mobile"):
        try:
            own |= normalised(one.account, {name: typed[name]}) if typed[name] else {}
        except (BadContact, ValueError) as error:
            faults[name] = f"{str(error)[:1].upper()}{str(error)[1:].rstrip('.')}."
    if not typed["email"] and not typed["mobile"]:
        faults["mobile"] = "Please leave a mobile number or an email, so that we can confirm it."
    own["first_name"], own["last_name"] = split_name(typed["name"])
    return own, faults


def _too_many(request: HttpRequest) -> bool:
    key = f"book:{keyed('booking', address_of(request)).hex()[:32]}"
    count = kept.get(key, 0)
    kept.set(key, count + 1, 3_600)
    return int(count) >= AN_HOUR


def _days(free: list[Free], zone: str, language: str, chosen: datetime | None, places: int) -> list[dict[str, Any]]:
    """By the visitor's own days."""
    found: dict[date, list[Time]] = {}
    for one in free:
        local = to_local(one.start, zone)
        left = "" if places == 1 else "last place" if one.left == 1 else f"{one.left} places"
        time = Time(one.start.isoformat().replace("+00:00", "Z"), time_in(language, local), left, one.start == chosen)
        found.setdefault(local.date(), []).append(time)
    return [
        {"words": weekday_in(language, day), "times": times, "chosen": any(one.chosen for one in times)}
        for day, times in found.items()
    ]


def _when(instant: datetime, zone: str, language: str) -> str:
    local = to_local(instant, zone)
    return f"{weekday_in(language, local.date())}, {time_in(language, local)}"


def _zone(name: str, one: AppointmentType) -> str:
    try:
        return known_zone(name[:64]) or one.account.zone
    except ValueError:
        return one.account.zone


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


def _instant(text: str) -> datetime | None:
    try:
        found = datetime.fromisoformat(text[:30])
    except ValueError:
        return None
    return found.astimezone(UTC) if found.tzinfo else None
