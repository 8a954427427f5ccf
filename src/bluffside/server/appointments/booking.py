"""Booking: one place in one sitting, for one person, however many want it at the same moment.

is it offered?   the beginning is free by the same function that the page shows (core.appointments.free)
the sitting      made by whoever comes first; who gives it and what it needs are taken with it, and PostgreSQL refuses two that
                 overlap. Then it is locked, so that places are given out one after the other
the place        the lowest number that is free
the appointment  with its event, from which workflows confirm and remind
"""

from datetime import datetime, timedelta

from django.db import IntegrityError, transaction
from django.db.backends.postgresql.psycopg_any import DateTimeTZRange

from bluffside.core.appointments.free import Free, pick
from bluffside.core.appointments.offer import Offer
from bluffside.core.timing.local import to_local
from bluffside.server.appointments import offering
from bluffside.server.appointments.models import AppointmentType, Place, Sitting, Taken
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment
from bluffside.server.events.stream import WORLD, Cause
from bluffside.server.people.models import Contact


class NotFree(ValueError):
    """Somebody was quicker, or it is not offered (any more); in words."""


@transaction.atomic
def book(one: AppointmentType, contact: Contact, start: datetime, cause: Cause = WORLD) -> Appointment:
    """Raises NotFree, and then nothing is written."""
    day = to_local(start, one.account.zone).date()
    found = next((each for each in offering.free_times(one, day, day) if each.start == start), None)
    if found is None:
        raise NotFree("That time is not free any more.")
    offer = offering.offer_of(one)
    sitting = _sitting(one, offer, found)
    gone = set(Place.objects.filter(sitting=sitting).values_list("number", flat=True))
    number = next((n for n in range(1, sitting.places + 1) if n not in gone), None)
    if number is None:
        raise NotFree("The last place has just been taken.")
    if Place.objects.filter(sitting=sitting, appointment__contact=contact).exists():
        raise NotFree("You have a place then already.")
    member = next((taken.member for taken in sitting.taken.select_related("member") if taken.member), None)
    try:
        made = diary.book(
            contact, one.name, start, minutes=offer.minutes, place=offer.place, member=member, cause=cause
        )
    except diary.BadAppointment as error:
        raise NotFree(str(error)) from None
    Place.objects.create(account=one.account, sitting=sitting, number=number, appointment=made)
    return made


def _sitting(one: AppointmentType, offer: Offer, found: Free) -> Sitting:
    """The one at that time, locked; made, with whom and what it takes, where there is none yet."""
    start, end = found.start, found.start + timedelta(minutes=offer.minutes)
    try:
        with transaction.atomic():
            made, new = Sitting.objects.get_or_create(
                type=one, start=start, defaults={"account": one.account, "end": end, "places": offer.places}
            )
            if new:
                during = DateTimeTZRange(start - timedelta(minutes=offer.before), end + timedelta(minutes=offer.after))
                rows = [Taken(account=one.account, sitting=made, during=during) for _ in range(2)]
                rows[0].member_id = pick(offer, found, offering.in_hand(one.account, start))
                rows[1].thing_id = found.things[0] if found.things else None
                Taken.objects.bulk_create(row for row in rows if row.member_id or row.thing_id)
    except IntegrityError:
        raise NotFree("Somebody was quicker: that time has just been taken.") from None
    return Sitting.objects.select_for_update().get(pk=made.pk)


def free_place(appointment: Appointment) -> None:
    """It is cancelled, or moved elsewhere: its place is free again, and with the last one the time of all."""
    place = Place.objects.filter(appointment=appointment).select_related("sitting").first()
    if place is None:
        return
    sitting = Sitting.objects.select_for_update().get(pk=place.sitting_id)
    place.delete()
    if not Place.objects.filter(sitting=sitting).exists():
        sitting.delete()
