"""Telling somebody about their appointment at once, by the channel they would rather hear on: that a place came free, that their time
was moved, that it cannot be held. What is confirmed and reminded as usual is for workflows to say."""

from bluffside.core.channels.consent import why_closed
from bluffside.core.terms import CHANNEL_KINDS, Channel
from bluffside.server.messaging.outbox import Draft, queue
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import load_contacts
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import Person

WAYS: tuple[Channel, ...] = ("text", "email")


def way_to(contact: Contact, ways: tuple[Channel, ...] = WAYS) -> tuple[Channel, str] | None:
    """By which of some channels they can be told now, and at which address; None: by none."""
    facts = load_contacts(contact.account, [contact.pk])[contact.pk]
    off = connections.switched_off(contact.account, "channel")
    order = [one for one in facts.contact.channel_order if one in ways]
    for channel in dict.fromkeys((*order, *ways)):
        if channel not in off and not why_closed(facts.contact, channel, "service", facts.account.care, clock.now()):
            return channel, facts.contact.address(channel)
    return None


def tell(contact: Contact, key: str, name: str, subject: str, words: str, by: Person | None = None) -> Channel | None:
    """Answers by which channel, in the transaction at hand; None when there is none. A key is told once."""
    way = way_to(contact)
    if way is None:
        return None
    channel, address = way
    body = words if CHANNEL_KINDS[channel].headed else f"{contact.account.name}: {words}"
    draft = Draft(contact.pk, key, channel, "service", address, body, name=name, subject=subject, by=by)
    queue(contact.account, [draft])
    return channel
