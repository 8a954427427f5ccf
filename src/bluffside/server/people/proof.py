"""Proof of consent for one person, as a PDF: what holds now, and all that was said, when, how and in which words.

Whoever relies on consent must be able to show it (GDPR art. 7(1)). Times are the account's, with their year.
"""

from collections.abc import Callable, Iterator, Mapping
from datetime import datetime
from typing import Any

from bluffside.core.phone_numbers import as_written
from bluffside.core.terms import SEVERAL
from bluffside.core.words import full_moment, several
from bluffside.server.events.models import Event
from bluffside.server.pdf import Sheet
from bluffside.server.people.models import Consent, Contact
from bluffside.server.practice import clock

STATES = {"given": "agreed to", "withdrawn": "opted out of", "asked": "was asked about"}
PURPOSES = {"marketing": "news and offers", "service": "what was booked"}

Say = Callable[[Mapping[str, Any], str], str]
SAID: dict[str, Say] = {
    "consent.given": lambda data, zone: f"agreed to {_what(data)}",
    "consent.withdrawn": lambda data, zone: f"opted out of {_what(data)}",
    "contact.merged": lambda data, zone: f"was made one with the record of {data['name']}",
    "contact.added": lambda data, zone: f"was added {data['how']}",
    "quiet.changed": lambda data, zone: _quiet(data["until"], zone),
}


def as_pdf(contact: Contact) -> bytes:
    title = f"What {contact.name} agreed to"
    page = Sheet(contact.account.name, title)
    heading, *lines = text(contact)
    page.heading(title, heading)
    for line in lines:
        if line in (NOW, BEFORE):
            page.ln(4)
            page.words(line, 13, "B")
            page.ln(1)
        else:
            page.words(line, 11)
    return bytes(page.output())


NOW, BEFORE = "What holds now", "What was said, in its order"


def text(contact: Contact) -> Iterator[str]:
    """The lines of it; the first says when it was made."""
    account, zone = contact.account, contact.account.zone
    yield f"made {full_moment(clock.now(), zone)} (times of {zone})"
    yield f"Email: {contact.email or 'none'}. Mobile: {as_written(contact.mobile, account.region) or 'none'}. Account: {account.postal_address}."
    yield NOW
    said = list(Consent.objects.filter(contact=contact).order_by("channel", "purpose"))
    for one in said:
        told = {"channel": one.channel, "purposes": [one.purpose]}
        how = {"how": one.how, "wording": one.wording, "evidence": one.evidence}
        yield f"{STATES[one.state].capitalize()} {_what(told)} on {full_moment(one.at, zone)}.{_how(how)}"
    if contact.do_not_contact:
        yield "Not to be contacted on any channel."
    if not said:
        yield "Nothing was said yet."
    yield BEFORE
    for event in Event.objects.filter(contact_id=contact.id, kind__in=SAID).select_related("actor").order_by("id"):
        who = f" Noted by {event.actor.name}." if event.actor else ""
        how = {} if event.kind == "contact.added" else event.data
        yield f"{full_moment(event.at, zone)}: {SAID[event.kind](event.data, zone)}.{_how(how)}{who}"


def _what(data: Mapping[str, Any]) -> str:
    channel = SEVERAL[data["channel"]]
    purposes = [PURPOSES[one] for one in data.get("purposes", ())]
    return f"{channel} about {several(purposes)}" if len(purposes) == 1 else channel


def _how(data: Mapping[str, Any]) -> str:
    said = f" In their words: “{data['text']}”." if data.get("text") else ""
    how = f" How: {data['how']}." if data.get("how") else ""
    wording = f" In answer to: “{data['wording']}”." if data.get("wording") else ""
    evidence = f" Evidence: {data['evidence'].rstrip('.')}." if data.get("evidence") else ""
    return f"{said}{how}{wording}{evidence}"


def _quiet(until: str, zone: str) -> str:
    if not until:
        return "wants to hear again"
    return f"asked for quiet until {full_moment(datetime.fromisoformat(until), zone)}"
