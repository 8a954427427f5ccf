"""Proof of consent for one person, as a PDF: what holds now, and all that was said, when, how and in which words.

Whoever relies on consent must be able to show it (GDPR art. 7(1)).
"""

from bluffside.core.timing.words import moment
from bluffside.server.events.models import Event
from bluffside.server.people.models import Consent, Contact
from bluffside.server.practice import clock
from bluffside.server.sheet import Sheet

STATES = {"given": "agreed", "withdrawn": "opted out", "asked": "was asked"}
KINDS = {"consent.given": "agreed", "consent.withdrawn": "opted out", "contact.merged": "was merged with another record",
         "quiet.changed": "asked for quiet", "contact.added": "was added"}  # fmt: skip


def as_pdf(contact: Contact) -> bytes:
    account, zone = contact.account, contact.account.zone
    title = f"What {contact.name} agreed to"
    page = Sheet(account.name, title)
    page.heading(title, f"made {moment(clock.now(), zone)} ({zone})")
    page.words(
        f"Email: {contact.email or 'none'}. Mobile: {contact.mobile or 'none'}. Account: {account.postal_address}.", 11
    )
    _section(page, "What holds now")
    said = list(Consent.objects.filter(contact=contact).order_by("channel", "purpose"))
    for one in said:
        how = f", by {one.how}" if one.how else ""
        words = f" Words: “{one.wording}”." if one.wording else ""
        evidence = f" Evidence: {one.evidence}." if one.evidence else ""
        state = f"{one.channel}, {one.purpose}: {STATES[one.state]} on {moment(one.at, zone)}{how}."
        page.words(f"{state}{words}{evidence}", 11)
    if contact.do_not_contact:
        page.words("Not to be contacted on any channel.", 11)
    if not said:
        page.words("Nothing was said yet.", 11, soft=True)
    _section(page, "What was said, in its order")
    for event in Event.objects.filter(contact_id=contact.id, kind__in=KINDS).select_related("actor").order_by("id"):
        page.words(_line(event, zone), 11)
    return bytes(page.output())


def _section(page: Sheet, title: str) -> None:
    page.ln(4)
    page.words(title, 13, "B")
    page.ln(1)


def _line(event: Event, zone: str) -> str:
    data = event.data
    channel = f" ({data['channel']})" if data.get("channel") else ""
    more = "; ".join(str(data[key]) for key in ("how", "wording", "evidence", "until") if data.get(key))
    who = f" Noted by {event.actor.name}." if event.actor else ""
    return f"{moment(event.at, zone)}: {KINDS[event.kind]}{channel}{f': {more}' if more else ''}.{who}"
