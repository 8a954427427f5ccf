"""Assistant: a booking assistant, which talks with contacts and books appointments."""

from datetime import datetime

from django.db import transaction

from bluffside.server.appointments import booking
from bluffside.server.appointments.booking import ByTeam
from bluffside.server.appointments.models import AppointmentType
from bluffside.server.diary.models import Appointment
from bluffside.server.diary.services import book
from bluffside.server.outside.models import Asked
from bluffside.server.outside.stand_ins.base import PersonBody, StandIn
from bluffside.server.people.models import Contact


class Conversation(PersonBody):
    type: str
    opening: str


def talks_with(account: str, contact_id: int) -> list[Asked]:
    """What it was asked to book for a contact, the newest first."""
    asked = Asked.objects.filter(service="assistant", account=account, body__person__contact=str(contact_id))
    return list(asked.order_by("-id")[:20])


@transaction.atomic
def book_as_assistant(contact: Contact, asked: Asked, start: datetime) -> Appointment:
    """It has talked with the contact, and books. Raises BadAppointment, and NotFree where there is such a type."""
    kind = AppointmentType.objects.filter(account=contact.account, name=asked.body["type"]).first()
    made = booking.book(kind, contact, start, by_team=ByTeam()) if kind else book(contact, asked.body["type"], start)
    asked.settled_at = start
    asked.save(update_fields=["settled_at"])
    return made


STAND_IN = StandIn("assistant", Conversation)
