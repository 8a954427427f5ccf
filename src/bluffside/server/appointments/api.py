"""Types of appointment as Set-up has them, the hours of who gives them, and the things they need."""

from typing import Any

from django.conf import settings
from django.db import transaction
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.appointments.offer import Offer
from bluffside.core.care.quiet import OpeningHours
from bluffside.server.appointments import offering
from bluffside.server.appointments.models import AppointmentType, MemberHours, Sitting, Thing
from bluffside.server.capture.forms import can_be_asked_with_a_time
from bluffside.server.people import usages
from bluffside.server.practice import audit, clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.naming import free_name
from bluffside.server.practice.refusals import BadFields

router = Router(tags=["appointments"], auth=InAccount())


class TypeOut(Schema):
    """`url`: where anybody books it; `booked`: sittings to come."""

    id: int
    name: str
    url: str
    open: bool
    offer: Offer
    booked: int


class NewNameIn(Schema):
    name: str = Field(min_length=1, max_length=120)


class TypeIn(Schema):
    """What is named is put in the place of what there is."""

    name: str | None = Field(default=None, min_length=1, max_length=120)
    open: bool | None = None
    offer: dict[str, Any] | None = None


class GiverOut(Schema):
    """`hours`: their own; None: whenever the business is open."""

    id: int
    name: str
    hours: OpeningHours | None


class GiverHoursIn(Schema):
    hours: OpeningHours | None = None


class ThingOut(Schema):
    id: int
    name: str


class AppointmentsOut(Schema):
    """`open`: whether the business has said when it is open; `forms`: whose questions can be asked on a page."""

    types: list[TypeOut]
    members: list[GiverOut]
    things: list[ThingOut]
    forms: list[ThingOut]
    open: bool


def _all(request: AccountRequest) -> AppointmentsOut:
    own, now = request.account, clock.now()
    hours = {row.member_id: OpeningHours.model_validate(row.hours) for row in MemberHours.objects.filter(account=own)}
    booked = [one.type_id for one in Sitting.objects.filter(account=own, start__gt=now).only("type_id")]
    return AppointmentsOut(
        types=[
            TypeOut(
                id=one.pk, name=one.name, url=f"{settings.ADDRESS}/book/{one.token}", open=one.open,
                offer=offering.offer_of(one), booked=booked.count(one.pk),
            )
            for one in own.appointment_types.order_by("name")
        ],
        members=[GiverOut(id=one.pk, name=one.name, hours=hours.get(one.pk)) for one in offering.who_may(own)],
        things=[ThingOut(id=one.pk, name=one.name) for one in own.things.order_by("name")],
        forms=[
            ThingOut(id=one.pk, name=one.name)
            for one in own.forms.filter(for_team=False, open=True).order_by("name")
            if can_be_asked_with_a_time(one)
        ],
        open=any((own.care.get("opening") or {}).get("days", {}).values()),
    )  # fmt: skip


def _type(request: AccountRequest, type_id: int) -> AppointmentType:
    return get_object_or_404(AppointmentType.objects.select_related("account"), account=request.account, pk=type_id)


@router.get("set-up/appointments", response=AppointmentsOut)
def appointments(request: AccountRequest, account: Path[str]) -> AppointmentsOut:
    return _all(request)


@router.post("set-up/appointments", response={201: AppointmentsOut})
def new_type(request: AccountRequest, account: Path[str], given: NewNameIn) -> tuple[int, AppointmentsOut]:
    require(request, "set-up")
    offering.make(request.account, given.name, request.person)
    return 201, _all(request)


@router.patch("set-up/appointments/{int:type_id}", response=AppointmentsOut)
def change_type(request: AccountRequest, account: Path[str], type_id: int, given: TypeIn) -> AppointmentsOut:
    require(request, "set-up")
    one = _type(request, type_id)
    with transaction.atomic():
        if given.name:
            offering.rename(one, given.name, request.person)
        if given.open is not None:
            offering.set_open(one, given.open, request.person)
        if given.offer:
            offering.change(one, given.offer, request.person)
    return _all(request)


@router.delete("set-up/appointments/{int:type_id}", response=AppointmentsOut)
def drop_type(request: AccountRequest, account: Path[str], type_id: int) -> AppointmentsOut:
    """409 while something of it is to come: close its page instead."""
    require(request, "set-up")
    one = _type(request, type_id)
    if one.sittings.filter(start__gt=clock.now()).exists():
        raise HttpError(
            409, f"“{one.name}” is booked in the days to come. Close its page; it can go when they are over."
        )
    asking = [
        use
        for use in usages.uses(request.account)
        if (use.kind, use.name, use.place) == ("appointment", one.name, "form")
    ]
    if asking:
        raise HttpError(
            409, f"The form “{asking[0].title}” asks for a time of “{one.name}”: take that question out first."
        )
    audit.note(
        request.account, request.person, "appointments", [audit.Noted(f"the type “{one.name}”", "", "taken away")]
    )
    one.delete()
    offering.note_pages(request.account)
    return _all(request)


@router.put("set-up/appointments/hours/{int:person_id}", response=AppointmentsOut)
def set_hours(request: AccountRequest, account: Path[str], person_id: int, given: GiverHoursIn) -> AppointmentsOut:
    """When somebody can be booked; None: whenever the business is open."""
    require(request, "set-up")
    member = next((one for one in offering.who_may(request.account) if one.pk == person_id), None)
    if member is None:
        raise HttpError(404, "Nobody of the team has that number.")
    if given.hours is None:
        MemberHours.objects.filter(account=request.account, member=member).delete()
    else:
        for hours in given.hours.days.values():
            if any(one.end <= one.start for one in hours):
                raise BadFields({"hours": "Hours end after they begin."})
        MemberHours.objects.update_or_create(
            account=request.account, member=member, defaults={"hours": given.hours.model_dump(mode="json")}
        )
    said = "of their own" if given.hours else "whenever the business is open"
    audit.note(request.account, request.person, "appointments", [audit.Noted(f"the hours of {member.name}", "", said)])
    return _all(request)


@router.post("set-up/things", response={201: AppointmentsOut})
def new_thing(request: AccountRequest, account: Path[str], given: NewNameIn) -> tuple[int, AppointmentsOut]:
    require(request, "set-up")
    name = free_name(Thing, "thing", request.account, given.name)
    Thing.objects.create(account=request.account, name=name)
    return 201, _all(request)


@router.delete("set-up/things/{int:thing_id}", response=AppointmentsOut)
def drop_thing(request: AccountRequest, account: Path[str], thing_id: int) -> AppointmentsOut:
    """409 while a type needs it."""
    require(request, "set-up")
    thing = get_object_or_404(Thing, account=request.account, pk=thing_id)
    if needs := [
        one.name for one in request.account.appointment_types.all() if thing.pk in offering.offer_of(one).things
    ]:
        raise HttpError(409, f"“{needs[0]}” needs it.")
    thing.delete()
    return _all(request)
