"""Booking: one place in one sitting, for one person, however many want it at the same moment.

is it offered?   the beginning is free by the same function that the page shows (core.appointments.free); the team may book at
                 another time, too
the sitting      made by whoever comes first; who gives it and what it needs are taken with it, and PostgreSQL refuses two that
                 overlap. Then it is locked, so that places are given out one after the other
the place        the lowest number that is free
the appointment  with its event, from which workflows confirm and remind

A course is all its sittings at once: a place in each, or none. A place that comes free is the next one's who waits (waiting.py).
"""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from typing import NamedTuple

from django.db import IntegrityError, OperationalError, transaction
from django.db.backends.postgresql.psycopg_any import DateTimeTZRange
from django.db.models import Count
from psycopg.errors import DeadlockDetected

from bluffside.core.appointments.free import Free, pick
from bluffside.core.appointments.offer import Offer
from bluffside.core.timing.local import to_local
from bluffside.server.appointments import offering, waiting
from bluffside.server.appointments.models import AppointmentType, Place, Sitting, Taken
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment
from bluffside.server.events.stream import WORLD, Cause
from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Person


class NotFree(ValueError):
    """Somebody was quicker, or it is not offered (any more); in words."""


class ByTeam(NamedTuple):
    """Booked by the team: at any time at which nobody is booked twice. `member`: who is to give it; None: as the offer says."""

    member: int | None = None


@contextmanager
def one_is_quicker() -> Iterator[None]:
    """Two who wait for what the other has taken: PostgreSQL stops one of them, who is told so by NotFree."""
    try:
        yield
    except OperationalError as error:
        if isinstance(error.__cause__, DeadlockDetected):
            raise NotFree("Somebody was quicker: please choose that time again.") from None
        raise


@one_is_quicker()
@transaction.atomic
def book(
    one: AppointmentType, contact: Contact, start: datetime, cause: Cause = WORLD, by_team: ByTeam | None = None
) -> Appointment:
    """Answers the appointment; of a course, its first date. Raises NotFree, and then nothing is written."""
    offer = offering.offer_of(one)
    sittings = _sittings(one, offer, _found(one, offer, start, by_team))
    if Place.objects.filter(sitting__in=sittings, appointment__contact=contact).exists():
        raise NotFree(
            "You have a place then already." if by_team is None else f"{contact.name} has a place then already."
        )
    member = _member_of(sittings[0])
    first: Appointment | None = None
    for sitting in sittings:
        number = _number_in(sitting)
        try:
            made = diary.book(
                contact, one.name, sitting.start, minutes=offer.minutes, place=offer.place, member=member, first=first,
                announce=False, cause=cause,
            )  # fmt: skip
        except diary.BadAppointment as error:
            raise NotFree(str(error)) from None
        Place.objects.create(account=one.account, sitting=sitting, number=number, appointment=made)
        first = first or made
    assert first
    diary.changed(first, "booked")
    return first


@one_is_quicker()
@transaction.atomic
def move(appointment: Appointment, start: datetime, cause: Cause = WORLD, by_team: ByTeam | None = None) -> Appointment:
    """To another time at which its type is free; of a course, all its dates. Raises NotFree, and BadAppointment for one that does
    not stand any more; then it stays where it is."""
    row = (
        Appointment.objects.select_for_update(of=("self",)).select_related("account", "contact").get(pk=appointment.pk)
    )
    one = type_of(row)
    if one is None:
        return diary.move(row, start, cause)
    offer = offering.offer_of(one)
    dates = list(diary.dates_of(row).filter(state__in=diary.STANDING))
    if row not in dates:
        raise diary.BadAppointment(f"This appointment is {row.get_state_display().lower()} already.")
    if len(dates) != offer.dates:
        raise NotFree("A part of this course is over, or the course has changed: it cannot be moved as a whole.")
    found = _found(one, offer, start, by_team, offering.alone_in(row))
    _lock(one, [*offer.beginnings(found.start, row.account.zone), *(each.start for each in dates)])
    for each in dates:
        _give_up(each)
    sittings = _sittings(one, offer, found)
    member = _member_of(sittings[0])
    for number, (each, sitting) in enumerate(zip(dates, sittings, strict=True)):
        Place.objects.create(account=row.account, sitting=sitting, number=_number_in(sitting), appointment=each)
        moved = diary.move(each, sitting.start, cause, member=member, quietly=number > 0, announce=False)
        row = moved if number == 0 else row
    diary.changed(row, "moved")
    return row


def type_of(appointment: Appointment) -> AppointmentType | None:
    """None for what was booked in another way, or whose type is not there any more."""
    types = AppointmentType.objects.filter(account=appointment.account_id, name=appointment.type)
    return types.select_related("account").first()


def _found(
    one: AppointmentType, offer: Offer, start: datetime, by_team: ByTeam | None, but: Sequence[int] = ()
) -> Free:
    """What is free at that time; the team may book besides, where nothing stands. Raises NotFree."""
    day = to_local(start, one.account.zone).date()
    found = next((each for each in offering.free_times(one, day, day, but) if each.start == start), None)
    if found is None and by_team:
        stands = Sitting.objects.filter(type=one, start=start).annotate(gone=Count("taken_places")).first()
        left = stands.places - stands.gone if stands else offer.places
        found = Free(start, () if stands else offer.members, () if stands else offer.things, left)
    if found is None:
        raise NotFree("That time is not free any more.")
    if found.left < 1:
        raise NotFree("The last place has just been taken.")
    if by_team and by_team.member and found.members:
        if by_team.member not in offer.members:
            raise NotFree("Whoever is to give it does not give this type of appointment.")
        found = found._replace(members=(by_team.member,))
    return found


def _sittings(one: AppointmentType, offer: Offer, found: Free) -> list[Sitting]:
    """Those at its times, locked; made, with whom and what they take, where there are none yet. Raises NotFree."""
    who = pick(offer, found, offering.in_hand(one.account, found.start))
    what = found.things[0] if found.things else None
    sittings = []
    for start in offer.beginnings(found.start, one.account.zone):
        try:
            with transaction.atomic():
                made, new = Sitting.objects.get_or_create(
                    type=one, start=start,
                    defaults={"account": one.account, "end": start + offer.length, "places": offer.places},
                )  # fmt: skip
                if new:
                    during = DateTimeTZRange(*offer.takes(start))
                    rows = (Taken(member_id=who), Taken(thing_id=what))
                    for row in rows:
                        row.account, row.sitting, row.during = one.account, made, during
                    Taken.objects.bulk_create(row for row in rows if row.member_id or row.thing_id)
        except IntegrityError:
            raise NotFree("Somebody was quicker: that time has just been taken.") from None
        sittings.append(made)
    found_again = _lock(one, [each.start for each in sittings])
    if len(found_again) != len(sittings):  # the last who had a place in one gave it up meanwhile
        raise NotFree("Somebody was quicker: please choose that time again.")
    return found_again


def _lock(one: AppointmentType, starts: Sequence[datetime]) -> list[Sitting]:
    """The sittings of a type at those times; locked, by whoever does so, in one order."""
    return list(Sitting.objects.select_for_update().filter(type=one, start__in=starts).order_by("start"))


def _number_in(sitting: Sitting) -> int:
    """The lowest that is free, in a sitting that is locked. Raises NotFree."""
    gone = set(Place.objects.filter(sitting=sitting).values_list("number", flat=True))
    number = next((n for n in range(1, sitting.places + 1) if n not in gone), None)
    if number is None:
        raise NotFree("The last place has just been taken.")
    return number


def _member_of(sitting: Sitting) -> Person | None:
    return next((taken.member for taken in sitting.taken.select_related("member") if taken.member), None)


# ---- places that come free


def place_given_up(appointment: Appointment, change: diary.Change) -> None:
    """Called when an appointment is changed: its place is free again when it is cancelled, or was moved away from it; and with the
    last place the time of all."""
    if change in ("booked", "missed"):
        return
    place = Place.objects.filter(appointment=appointment).select_related("sitting").first()
    if place and (change == "cancelled" or place.sitting.start != appointment.start):
        _give_up(appointment)


def _give_up(appointment: Appointment) -> None:
    """Takes an appointment out of its sitting."""
    place = Place.objects.filter(appointment=appointment).first()
    if place:
        Sitting.objects.select_for_update().get(pk=place.sitting_id)
        place.delete()


def place_is_gone(sender: object, instance: Place, **more: object) -> None:
    """Called when a place is gone, however that came (its contact may have been erased): whoever waits longest is asked. With the last
    place goes the sitting, and the time that it takes is free, unless somebody waits."""
    sitting = Sitting.objects.select_for_update().filter(pk=instance.sitting_id).first()
    if sitting is None:
        return
    if instance.appointment_id:  # who was asked and lets it go makes room in waiting.py
        waiting.ask_next(sitting)
    if not Place.objects.filter(sitting=sitting).exists() and not waiting.is_waited_for(sitting):
        sitting.delete()
