"""Calendars that go out and come in: addresses by which appointments are followed, and calendars in which members are busy."""

from typing import Literal

from django.shortcuts import get_object_or_404
from ninja import File, Form, Path, Router, Schema
from ninja.errors import HttpError
from ninja.files import UploadedFile
from pydantic import Field

from bluffside.server.appointments import busy, calendars
from bluffside.server.appointments.models import BusyCalendar, CalendarFeed
from bluffside.server.appointments.team_api import member_of
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.models import Person
from bluffside.server.practice.words import moment

router = Router(tags=["appointments"], auth=InAccount())


class BusyCalendarOut(Schema):
    id: int
    member: str
    name: str
    shown: str
    read: str
    fault: str


class CalendarsOut(Schema):
    """`followed`: whether there is an address by which one's own appointments, or all, are followed; the address itself is shown once,
    when it is made."""

    own: bool
    all: bool
    address: str = ""
    busy: list[BusyCalendarOut]


class FeedIn(Schema):
    of: Literal["own", "all"]


class BusyIn(Schema):
    member: int
    name: str = Field(default="", max_length=120)
    url: str = Field(max_length=2_000)


def _calendars(request: AccountRequest, address: str = "") -> CalendarsOut:
    own, zone = request.account, request.account.zone
    feeds = CalendarFeed.objects.filter(account=own)
    rows = BusyCalendar.objects.filter(account=own).select_related("member").order_by("member__name", "name")
    return CalendarsOut(
        own=feeds.filter(member=request.person).exists(), all=feeds.filter(member=None).exists(), address=address,
        busy=[
            BusyCalendarOut(
                id=one.pk, member=one.member.name, name=one.name, shown=one.shown, fault=one.fault,
                read=moment(one.read_at, zone) if one.read_at else "",
            )
            for one in rows
        ],
    )  # fmt: skip


@router.get("calendars", response=CalendarsOut)
def followed(request: AccountRequest, account: Path[str]) -> CalendarsOut:
    return _calendars(request)


@router.post("calendars", response=CalendarsOut)
def new_address(request: AccountRequest, account: Path[str], given: FeedIn) -> CalendarsOut:
    """A new secret address, in the place of the one before. All appointments: who sets the account up."""
    require(request, "people" if given.of == "own" else "set-up")
    member = request.person if given.of == "own" else None
    return _calendars(request, calendars.new_feed(request.account, member, request.person))


@router.delete("calendars/{of}", response=CalendarsOut)
def drop_address(request: AccountRequest, account: Path[str], of: Literal["own", "all"]) -> CalendarsOut:
    require(request, "people" if of == "own" else "set-up")
    calendars.drop_feed(request.account, request.person if of == "own" else None, request.person)
    return _calendars(request)


@router.post("busy-calendars", response=CalendarsOut)
def follow_busy(request: AccountRequest, account: Path[str], given: BusyIn) -> CalendarsOut:
    """A calendar by its address, read again each hour: of oneself, or (who sets the account up) of anybody of the team."""
    member = _whose(request, given.member)
    try:
        busy.follow_address(request.account, member, given.name.strip(), given.url, request.person)
    except busy.CannotFollow as error:
        raise HttpError(422, str(error)) from None
    return _calendars(request)


@router.post("busy-calendars/file", response=CalendarsOut)
def take_busy(request: AccountRequest, account: Path[str], member: Form[int], file: File[UploadedFile]) -> CalendarsOut:
    """A calendar as a file (.ics), read once."""
    whose = _whose(request, member)
    content = file.read(busy.LARGEST + 1)
    try:
        busy.take_file(request.account, whose, file.name or "a file", content, request.person)
    except busy.CannotFollow as error:
        raise HttpError(422, str(error)) from None
    return _calendars(request)


@router.delete("busy-calendars/{int:calendar_id}", response=CalendarsOut)
def drop_busy(request: AccountRequest, account: Path[str], calendar_id: int) -> CalendarsOut:
    one = get_object_or_404(
        BusyCalendar.objects.select_related("member", "account"), account=request.account, pk=calendar_id
    )
    _whose(request, one.member_id)
    busy.drop(one, request.person)
    return _calendars(request)


def _whose(request: AccountRequest, number: int) -> Person:
    """A member whose calendar this person may deal with. Raises 404 and 403."""
    require(request, "people" if number == request.person.pk else "set-up")
    return member_of(request, number)
