"""The diary as a conversation of a workflow sees it: what is free, and booking it (workflows/bookings.py)."""

from collections.abc import Sequence
from datetime import datetime, timedelta

from bluffside.core.appointments.free import Free
from bluffside.core.engine.booking_effects import BookAppointment
from bluffside.core.timing.local import to_local
from bluffside.server.appointments import booking, offering
from bluffside.server.appointments.models import AppointmentType
from bluffside.server.diary.models import Appointment
from bluffside.server.diary.services import BadAppointment
from bluffside.server.events.stream import Cause
from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account
from bluffside.server.workflows.bookings import NotBooked


class DiaryOfTypes:
    def free(self, account: Account, kind: str, now: datetime) -> Sequence[Free]:
        one = _type(account, kind)
        if one is None:
            return ()
        today = to_local(now, account.zone).date()
        last = today + timedelta(days=offering.offer_of(one).ahead_days)
        return [each for each in offering.free_times(one, today, last) if each.left]

    def book(self, account: Account, contact_id: int, effect: BookAppointment, cause: Cause) -> int:
        try:
            if effect.instead_of:
                held = Appointment.objects.filter(account=account, contact=contact_id).get(pk=int(effect.instead_of))
                return booking.move(held, effect.start, cause).pk
            one = _type(account, effect.type)
            if one is None:
                raise NotBooked("There is no such type of appointment any more.")
            return booking.book(one, Contact.objects.get(pk=contact_id), effect.start, cause).pk
        except (booking.NotFree, BadAppointment) as error:
            raise NotBooked(str(error)) from None


def _type(account: Account, name: str) -> AppointmentType | None:
    return AppointmentType.objects.filter(account=account, name=name).select_related("account").first()
