"""Appointments as the team has them: booked for a contact, moved, settled, given by somebody else; and the calendar of them."""

from collections import Counter, defaultdict
from datetime import date, datetime, timedelta
from typing import Literal

from django.db.models import F
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import BaseModel, Field

from bluffside.core.appointments.calendar_text import day_span
from bluffside.core.timing.local import LAST, to_instant, to_local
from bluffside.core.words import time_in
from bluffside.server.appointments import booking, calendars, offering, sittings
from bluffside.server.appointments.models import AppointmentType, Busy, Sitting, Waiting
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment, AppointmentState
from bluffside.server.events.stream import Cause
from bluffside.server.people.api import contact_of
from bluffside.server.people.queries import account_facts
from bluffside.server.people.signed import appointment_link
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.models import Person
from bluffside.server.practice.words import moment

router = Router(tags=["appointments"], auth=InAccount())
MOST_DAYS = 62  # that are asked for at a time
MOST = 3_000  # entries of a calendar at a time
SHOWN = (  # of an appointment in it
    "start", "end", "type", "place", "member", "state", "contact__first_name", "contact__last_name", "contact__email", "contact__mobile",
)  # fmt: skip
State = Appointment.State


class GivesOut(Schema):
    id: int
    name: str


class BookableOut(Schema):
    """A type as it is booked by the team. `dates`: of a course."""

    id: int
    name: str
    minutes: int
    places: int
    dates: int
    price: str
    members: list[GivesOut]


class TimeOut(Schema):
    """`at`: local to the account; `left`: places; 0: it is full. `members`: who is free then; none where it stands already."""

    at: datetime
    words: str
    left: int
    members: list[int]


class FreeOut(Schema):
    """By local day, those without a time left out. `beyond`: where there are none, the next day after them
    that has any."""

    days: dict[str, list[TimeOut]]
    beyond: date | None


class BookIn(Schema):
    """`at`: local to the account; `member`: who is to give it, else as its type says."""

    type: int
    at: datetime
    member: int | None = None


class BookedOut(Schema):
    id: int
    type: str
    contact: str
    contact_id: int
    start: datetime
    local_start: datetime
    words: str
    state: AppointmentState
    place: str
    member: str
    course: bool  # one of several dates
    link: str  # its own page, which only its contact is sent


class AnotherTimeIn(Schema):
    """`tell`: the contacts at once, by the channel they would rather hear on."""

    at: datetime
    member: int | None = None
    tell: bool = False


class AppointmentStateIn(Schema):
    state: Literal["confirmed", "cancelled", "missed", "attended"]


class InIt(BaseModel):  # not ninja's: a calendar holds thousands, and its validator takes ten times as long
    appointment: int
    contact: str
    contact_id: int
    state: AppointmentState


class EntryOut(BaseModel):
    """In the calendar: a sitting with who is in it, or (without one) an appointment that was booked in another way. Times are local
    to the account; `waiting`: how many wait for a place."""

    key: str
    sitting: int | None
    type: str
    start: datetime
    end: datetime
    place: str
    member: int | None
    places: int
    people: list[InIt]
    waiting: int


class BusyOut(BaseModel):
    member: int
    start: datetime
    end: datetime
    why: str


class BookedCalendarOut(Schema):
    """`closed`: local days of it on which the business is closed, and why."""

    entries: list[EntryOut]
    busy: list[BusyOut]
    closed: dict[str, str]
    members: list[GivesOut]
    cut: bool  # there are more than are shown


class CallOffIn(Schema):
    tell: bool = True
    why: str = Field(default="", max_length=120)


class AwayIn(Schema):
    member: int
    first: date
    last: date
    why: str = Field(default="", max_length=120)
    tell: bool = True


class AffectedOut(Schema):
    """`by`: who else gives it; empty: nobody is free, and it is called off."""

    type: str
    words: str
    people: list[str]
    by: str


def _local(request: AccountRequest, at: datetime) -> datetime:
    return to_instant(at.replace(tzinfo=None), request.account.zone)


def _shown(one: Appointment, zone: str) -> BookedOut:
    return BookedOut(
        id=one.pk, type=one.type, contact=one.contact.name, contact_id=one.contact_id, start=one.start,
        local_start=to_local(one.start, zone), words=moment(one.start, zone), state=one.now, place=one.place,
        member=one.member.name if one.member else "", course=one.first_id is not None or one.later.exists(),
        link=appointment_link(one.account_id, one.pk),
    )  # fmt: skip


def _type(request: AccountRequest, type_id: int) -> AppointmentType:
    return get_object_or_404(AppointmentType.objects.select_related("account"), account=request.account, pk=type_id)


def _appointment(request: AccountRequest, number: int) -> Appointment:
    rows = Appointment.objects.select_related("account", "contact", "member")
    return get_object_or_404(rows, account=request.account, pk=number)


def member_of(request: AccountRequest, number: int) -> Person:
    """Somebody of the team who may give appointments. 404."""
    found = next((one for one in offering.who_may(request.account) if one.pk == number), None)
    if found is None:
        raise HttpError(404, "Nobody of the team has that number.")
    return found


# ---- booking


@router.get("appointments/types", response=list[BookableOut])
def types(request: AccountRequest, account: Path[str]) -> list[BookableOut]:
    team = {one.pk: one.name for one in offering.who_may(request.account)}
    found = []
    for one in AppointmentType.objects.filter(account=request.account).order_by("name"):
        offer = offering.offer_of(one)
        gives = [GivesOut(id=id, name=team[id]) for id in offer.members if id in team]
        found.append(
            BookableOut(
                id=one.pk, name=one.name, minutes=offer.minutes, places=offer.places, dates=offer.dates,
                price=offer.price, members=gives,
            )
        )  # fmt: skip
    return found


@router.get("appointments/free", response=FreeOut)
def free(
    request: AccountRequest, account: Path[str], type: int, start: date, days: int = 14, appointment: int | None = None
) -> FreeOut:
    """When a type is free; for an appointment that is to be moved, its own time is."""
    one = _type(request, type)
    own = offering.alone_in(_appointment(request, appointment)) if appointment else ()
    last = start + timedelta(days=min(max(days, 1), MOST_DAYS) - 1)
    zone, language = request.account.zone, request.account.language
    found: dict[str, list[TimeOut]] = defaultdict(list)
    for each in offering.free_times(one, start, last, own):
        local = to_local(each.start, zone)
        found[local.date().isoformat()].append(
            TimeOut(at=local, words=time_in(language, local), left=each.left, members=list(each.members))
        )
    end = to_local(clock.now(), zone).date() + timedelta(days=offering.offer_of(one).ahead_days)
    rest = offering.free_times(one, last + timedelta(days=1), end, own) if end > last and not found else []
    return FreeOut(days=found, beyond=to_local(rest[0].start, zone).date() if rest else None)


@router.post("contacts/{int:contact_id}/appointments", response={201: BookedOut})
def book(request: AccountRequest, account: Path[str], contact_id: int, given: BookIn) -> tuple[int, BookedOut]:
    """At any time at which nobody is booked twice. 409 in words."""
    require(request, "people")
    one, contact = _type(request, given.type), contact_of(request, contact_id)
    try:
        made = booking.book(
            one, contact, _local(request, given.at), Cause(actor=request.person), booking.ByTeam(given.member)
        )
    except booking.NotFree as error:
        raise HttpError(409, str(error)) from None
    return 201, _shown(made, request.account.zone)


@router.get("contacts/{int:contact_id}/appointments", response=list[BookedOut])
def of_contact(request: AccountRequest, account: Path[str], contact_id: int) -> list[BookedOut]:
    """The latest first."""
    contact = contact_of(request, contact_id)
    rows = contact.appointments.select_related("contact", "member").order_by("-start", "-id")
    return [_shown(one, request.account.zone) for one in rows[:100]]


@router.post("appointments/{int:appointment_id}/move", response=BookedOut)
def move(request: AccountRequest, account: Path[str], appointment_id: int, given: AnotherTimeIn) -> BookedOut:
    """One contact's, to another time; of a course, all its dates. 409 in words."""
    require(request, "people")
    one = _appointment(request, appointment_id)
    try:
        moved = booking.move(one, _local(request, given.at), Cause(actor=request.person), booking.ByTeam(given.member))
    except (booking.NotFree, diary.BadAppointment) as error:
        raise HttpError(409, str(error)) from None
    if given.tell:
        sittings.say(moved, "moved", f"Your appointment is moved: {calendars.in_words(moved)}.", request.person)
    return _shown(_appointment(request, appointment_id), request.account.zone)


@router.post("appointments/{int:appointment_id}/state", response=BookedOut)
def settle(request: AccountRequest, account: Path[str], appointment_id: int, given: AppointmentStateIn) -> BookedOut:
    require(request, "tasks")
    one = _appointment(request, appointment_id)
    try:
        diary.settle(one, State(given.state), Cause(actor=request.person))
    except diary.BadAppointment as error:
        raise HttpError(409, str(error)) from None
    return _shown(_appointment(request, appointment_id), request.account.zone)


# ---- the calendar


@router.get("calendar", response=BookedCalendarOut)
def calendar(
    request: AccountRequest, account: Path[str], start: date, days: int = 7, member: int | None = None
) -> BookedCalendarOut:
    own, zone = request.account, request.account.zone
    last = start + timedelta(days=min(max(days, 1), MOST_DAYS) - 1)
    span = day_span(start, last, zone)
    rows = Appointment.objects.filter(account=own, start__gte=span.start, start__lt=span.end)
    rows = rows.exclude(state=State.CANCELLED).select_related("contact")
    if member:
        rows = rows.filter(member=member)
    rows = rows.only(*SHOWN).annotate(sitting=F("seat__sitting"), places=F("seat__sitting__places"))
    some = list(rows.order_by("start", "id")[: MOST + 1])
    waited = Waiting.objects.filter(account=own, sitting__start__gte=span.start, sitting__start__lt=span.end)
    waiting = Counter(waited.values_list("sitting_id", flat=True))
    found: dict[str, EntryOut] = {}
    for one in some[:MOST]:
        sitting, places = one.sitting, one.places or 1
        key = f"s{sitting}" if sitting else f"a{one.pk}"
        end = one.end or one.start + calendars.USUAL
        entry = found.setdefault(
            key,
            EntryOut(
                key=key, sitting=sitting, type=one.type, start=to_local(one.start, zone),
                end=to_local(end, zone), place=one.place, member=one.member_id, places=places,
                people=[], waiting=waiting[sitting] if sitting else 0,
            ),
        )  # fmt: skip
        entry.people.append(
            InIt(appointment=one.pk, contact=one.contact.name, contact_id=one.contact_id, state=one.now)
        )
    busy_rows = Busy.objects.filter(account=own, end__gt=span.start, start__lt=span.end)
    care = account_facts(own).care
    all_days = [start + timedelta(days=n) for n in range((last - start).days + 1)]
    return BookedCalendarOut(
        entries=list(found.values()),
        busy=[
            BusyOut(member=one.member_id, start=to_local(one.start, zone), end=to_local(min(one.end, LAST), zone), why=one.why)
            for one in busy_rows.order_by("start")[:MOST]
        ],
        closed={day.isoformat(): why for day in all_days if (why := care.closed(day))},
        members=[GivesOut(id=one.pk, name=one.name) for one in offering.who_may(own)],
        cut=len(some) > MOST,
    )  # fmt: skip


def _sitting(request: AccountRequest, number: int) -> Sitting:
    return get_object_or_404(Sitting.objects.select_related("type__account"), account=request.account, pk=number)


@router.post("sittings/{int:sitting_id}/move", response={204: None})
def move_sitting(
    request: AccountRequest, account: Path[str], sitting_id: int, given: AnotherTimeIn
) -> tuple[int, None]:
    """With all who are in it. 409 in words."""
    require(request, "people")
    sitting = _sitting(request, sitting_id)
    member = member_of(request, given.member) if given.member else None
    try:
        sittings.move(sitting, _local(request, given.at), member, request.person, given.tell)
    except (booking.NotFree, diary.BadAppointment) as error:
        raise HttpError(409, str(error)) from None
    return 204, None


@router.post("sittings/{int:sitting_id}/call-off", response={204: None})
def call_off(request: AccountRequest, account: Path[str], sitting_id: int, given: CallOffIn) -> tuple[int, None]:
    """It is not held; all who are in it are cancelled."""
    require(request, "people")
    sittings.call_off(_sitting(request, sitting_id), request.person, given.tell, f"{given.why}: " if given.why else "")
    return 204, None


@router.get("appointments/away", response=list[AffectedOut])
def who_is_affected(
    request: AccountRequest, account: Path[str], member: int, first: date, last: date
) -> list[AffectedOut]:
    """What would become of what stands on some days, if a member could not come."""
    who = member_of(request, member)
    return _affected(request, sittings.affected(request.account, who, *_days(first, last)))


@router.post("appointments/away", response=list[AffectedOut])
def away(request: AccountRequest, account: Path[str], given: AwayIn) -> list[AffectedOut]:
    """A member cannot come: answers what became of each."""
    require(request, "people")
    member = member_of(request, given.member)
    days = _days(given.first, given.last)
    done = sittings.away(request.account, member, *days, request.person, given.why.strip(), given.tell)
    return _affected(request, done)


def _days(first: date, last: date) -> tuple[date, date]:
    if not first <= last <= first + timedelta(days=MOST_DAYS):
        raise HttpError(422, f"Name a first and a last day, at most {MOST_DAYS} days apart.")
    return first, last


def _affected(request: AccountRequest, found: list[sittings.Affected]) -> list[AffectedOut]:
    zone = request.account.zone
    return [
        AffectedOut(
            type=one.sitting.type.name, words=moment(one.sitting.start, zone), by=one.by.name if one.by else "",
            people=[each.contact.name for each in one.people],
        )
        for one in found
    ]  # fmt: skip
