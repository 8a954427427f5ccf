"""Appointments as the core knows them, and what decisions changed about them."""

from collections import defaultdict
from collections.abc import Collection, Iterable

from bluffside.core import facts
from bluffside.server import sql
from bluffside.server.people.changes import Changed
from bluffside.server.practice.models import Account


def load_appointments(account: Account, contact_ids: Collection[int]) -> dict[int, tuple[facts.Appointment, ...]]:
    """Each contact's appointments, in the order they were booked."""
    found: dict[int, list[facts.Appointment]] = defaultdict(list)
    for contact_id, id, *rest in sql.rows(
        "SELECT a.contact_id, a.id, a.type, a.start, a.\"end\", a.state, a.place, coalesce(p.name, '')"
        " FROM diary_appointment a LEFT JOIN practice_person p ON p.id = a.member_id"
        " WHERE a.account_id = %s AND a.contact_id = ANY(%s) ORDER BY a.id",
        [account.id, list(contact_ids)],
    ):
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
        sql.execute(
            "UPDATE diary_appointment a SET state = u.state FROM unnest(%s::bigint[], %s::text[]) AS u (id, state)"
            " WHERE a.id = u.id",
            [[id for id, _ in states], [state for _, state in states]],
        )
