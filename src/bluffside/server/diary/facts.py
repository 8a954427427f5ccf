"""Appointments as the core knows them, and what decisions changed about them."""

from collections import defaultdict
from collections.abc import Collection, Iterable

from django.db.models import Value
from django.db.models.functions import Coalesce

from bluffside.core import facts
from bluffside.server.diary import services
from bluffside.server.diary.models import Appointment
from bluffside.server.people.changes import Changed
from bluffside.server.people.signed import appointment_link
from bluffside.server.practice.models import Account


def load_appointments(account: Account, contact_ids: Collection[int]) -> dict[int, tuple[facts.Appointment, ...]]:
    """Each contact's appointments, in the order they were booked."""
    found: dict[int, list[facts.Appointment]] = defaultdict(list)
    rows = Appointment.objects.filter(account=account, contact__any=set(contact_ids)).order_by("id")
    columns = ("contact_id", "id", "type", "start", "end", "state", "place", Coalesce("member__name", Value("")))
    for contact_id, id, type, start, end, state, place, member in rows.values_list(*columns):
        link = appointment_link(account.id, id)
        found[contact_id].append(facts.Appointment(str(id), type, start, end, state, place, member, link))
    return {contact_id: tuple(ones) for contact_id, ones in found.items()}


def write_appointments(changed: Iterable[Changed]) -> None:
    """Workflows confirm and cancel appointments; what they book is there already. The event of a cancelled one is the decision's own."""
    confirmed, cancelled = list[int](), list[int]()
    for one in changed:
        if one.before.appointments is not one.after.appointments:
            was = {each.id: each.state for each in one.before.appointments}
            for appointment in one.after.appointments:
                if appointment.state not in ("booked", was.get(appointment.id)):
                    (cancelled if appointment.state == "cancelled" else confirmed).append(int(appointment.id))
    Appointment.objects.filter(id__in=confirmed).update(state=Appointment.State.CONFIRMED)
    for row in Appointment.objects.filter(id__in=cancelled).select_related("account", "contact").order_by("id"):
        services.cancel(row)
