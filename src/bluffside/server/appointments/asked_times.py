"""A time to come at as a question of a form: whoever sends the form is booked with it."""

from datetime import timedelta

from bluffside.core.timing.local import to_local
from bluffside.core.words import time_in, weekday_in
from bluffside.server.appointments import booking, offering
from bluffside.server.appointments.models import AppointmentType
from bluffside.server.appointments.times import as_asked, first_free, instant_of, when
from bluffside.server.capture.asking import Choice, Gone
from bluffside.server.diary.services import BadAppointment
from bluffside.server.events.stream import Cause
from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account

MOST = 80  # times to choose from; further ones are on the type's own page


class FreeTimes:
    def names(self, account: Account) -> list[str]:
        return sorted(account.booking_pages)

    def label(self, name: str) -> str:
        return f"a time for “{name}”"

    def choices(self, account: Account, name: str) -> list[Choice]:
        one = _type(account, name)
        found = []
        for each in first_free(one, timedelta(days=14)) if one else ():
            local = to_local(each.start, account.zone)
            words, day = time_in(account.language, local), weekday_in(account.language, local.date())
            found.append(Choice(as_asked(each.start), words, day))
        return found[:MOST]

    def words(self, account: Account, value: str) -> str:
        start = instant_of(value)
        return when(start, account.zone, account.language) if start else value

    def take(self, contact: Contact, name: str, value: str, cause: Cause) -> None:
        one, start = _type(contact.account, name), instant_of(value)
        if one is None or start is None:
            raise Gone("This cannot be booked here any more")
        try:
            booking.book(one, contact, start, cause)
        except (booking.NotFree, BadAppointment) as error:
            raise Gone(str(error).rstrip(".")) from None


def _type(account: Account, name: str) -> AppointmentType | None:
    return offering.open_types(account).filter(name=name).first()
