"""What an event from outside makes of a contact: the facts after somebody was tagged, booked or opted out."""

from dataclasses import replace
from datetime import datetime
from decimal import Decimal
from typing import Any

from bluffside.core.events import Event
from bluffside.core.facts import Appointment, Consent, Contact, Deal, withdrawn
from bluffside.core.terms import PURPOSES

STATES = {
    "appointment.cancelled": "cancelled",
    "appointment.missed": "missed",
    "appointment.attended": "attended",
}


def named(contact: Contact, event: Event) -> Event:
    """The event with the deal it is about named: where it names none, the newest open one on its pipeline."""
    if event.data.get("deal") != "":
        return event
    pipeline = event.data.get("pipeline", "")
    fitting = [deal for deal in contact.deals if deal.state == "open" and pipeline in ("", deal.pipeline)]
    deal = max(fitting, key=lambda one: one.created, default=None)
    about: dict[str, Any] = {"deal": "deal-0"}
    if deal:
        stage = event.data["stage"] or deal.stage
        about = {"deal": deal.id, "pipeline": deal.pipeline, "stage": stage, "old": deal.stage}
    return replace(event, data={**event.data, **about})


def changes_nothing(contact: Contact, event: Event) -> bool:
    """Whether what an event tells of is so already: then nothing happens, in life as here."""
    data = event.data
    match event.kind:
        case "tag.added" | "tag.removed":
            return (data["tag"] in contact.tags) == (event.kind == "tag.added")
        case "list.joined" | "list.left":
            return (data["list"] in contact.lists) == (event.kind == "list.joined")
        case "field.changed":
            return bool(contact.fields.get(data["field"]) == data["new"])
    return False


def absorb(contact: Contact, event: Event) -> Contact:
    """The contact as the event leaves it. What it does not know it leaves alone."""
    data = event.data
    match event.kind:
        case "tag.added":
            return contact.changed(tags=contact.tags | {data["tag"]})
        case "tag.removed":
            return contact.changed(tags=contact.tags - {data["tag"]})
        case "list.joined":
            return contact.changed(lists=contact.lists | {data["list"]})
        case "list.left":
            return contact.changed(lists=contact.lists - {data["list"]})
        case "field.changed":
            return contact.changed(fields={**contact.fields, data["field"]: data["new"]})
        case "consent.withdrawn":
            said = withdrawn(data["channel"], at=event.at, evidence=data.get("text", ""))
            return contact.changed(consents=contact.consents_after(*said))
        case "consent.given":
            given = [Consent(data["channel"], purpose, "given", event.at) for purpose in PURPOSES]
            return contact.changed(consents=contact.consents_after(*given))
        case "reply.read":
            known = contact.changed(held=contact.held - {data["channel"]})
            said = withdrawn(data["channel"], at=event.at) if data["wants_out"] else ()
            return known.changed(consents=known.consents_after(*said))
        case "message.bounced":
            return contact.changed(exhausted=contact.exhausted | {data["channel"]})
        case "appointment.booked":
            new = Appointment(data["appointment"], data["type"], data["start"])
            return contact.changed(appointments=(*contact.appointments, new))
        case "stage.changed" | "deal.created" | "deal.won" | "deal.lost":
            return _deal(contact, event)
    if event.kind in STATES or event.kind == "appointment.moved":
        return contact.changed(appointments=tuple(_appointment(one, event) for one in contact.appointments))
    return contact


def _appointment(one: Appointment, event: Event) -> Appointment:
    if one.id != event.data.get("appointment"):
        return one
    if event.kind == "appointment.moved":
        return replace(one, start=event.data["start"], state="booked")
    return replace(one, state=STATES[event.kind])  # type: ignore[arg-type]  # of the table above


def _deal(contact: Contact, event: Event) -> Contact:
    data, at = event.data, event.at
    known = contact.deal(data["deal"])
    if known is None:
        new = Deal(data["deal"], data["pipeline"], data["stage"], at, at, Decimal(str(data.get("value", 0))))
        return contact.changed(deals=(*contact.deals, new))
    state: Any = {"deal.won": "won", "deal.lost": "lost"}.get(event.kind, known.state)
    since: datetime = known.since if known.stage == data["stage"] else at
    changed = replace(known, stage=data["stage"], since=since, state=state)
    return contact.changed(deals=tuple(changed if one.id == known.id else one for one in contact.deals))
