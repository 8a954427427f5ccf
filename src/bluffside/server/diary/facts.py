"""Appointments as the core knows them, and what decisions changed about them."""

from collections import defaultdict
from collections.abc import Collection, Iterable

from django.db.models import Value
from django.db.models.functions import Coalesce

from bluffside.core import facts
from bluffside.server.diary.models import Appointment
from bluffside.server.people.changes import Changed
from bluffside.server.practice.models import Account


def load_appointments(account: Account, contact_ids: Collection[int]) -> dict[int, tuple[facts.Appointment, ...]]:
    """Each contact's appointments, in the order they were booked."""
    found: dict[int, list[facts.Appointment]] = defaultdict(list)
    rows = Appointment.objects.filter(account=account, contact__any=set(contact_ids)).order_by("id")
    columns = ("contact_id", "id", "type", "start", "end", "state", "place", Coalesce("member__name", Value("")))
    for contact_id, id, *rest in rows.values_list(*columns):
        found[contact_id].append(facts.Appointment(str(id), *rest))
    return {contact_id: tuple(ones) for contact_id, ones in found.items()}


def write_appointments(changed: Iterable[Changed]) -> None:
    """Workflows confirm and cancel appointments; they book none."""
    states = [
        (int(appointment.id), appointment.state)
        for one in changed
        if one.before.appointments is not one.after.appointments
        for appointment in one.after.appointments
        if appointment not in one.before.appointments
    ]
    if states:
        Appointment.objects.bulk_update([Appointment(id=id, state=state) for id, state in states], ["state"])
