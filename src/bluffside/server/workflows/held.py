"""Held messages: somebody lets them go, within the hours in which such a message may go, or they are not to go.

The line that holds one stays until that is decided (core.steps.speaking), so nothing that follows comes before it.
"""

from datetime import datetime

from bluffside.core.engine.turn import Setting
from bluffside.core.terms import Channel, Purpose
from bluffside.server.messaging import services as messaging
from bluffside.server.messaging.models import Message
from bluffside.server.people.queries import load_contacts
from bluffside.server.practice import clock
from bluffside.server.practice.models import Person
from bluffside.server.workflows.models import Enrolment
from bluffside.server.workflows.versions import program_of


def let_go(message: Message, by: Person) -> datetime:
    """Answers when it goes: now, or when the hours of its workflow and the account's quiet hours let it. Raises
    messaging.CannotSend."""
    goes = goes_at(message)
    messaging.let_go(message, by, goes)
    return goes


def goes_at(message: Message) -> datetime:
    """When a message would go if it were let go now."""
    now = clock.now()
    row = Enrolment.objects.filter(account=message.account_id, id=message.enrolment_id or 0).first()
    if row is None:
        return now
    facts = load_contacts(message.account, [message.contact_id])[message.contact_id]
    channel: Channel = message.channel
    purpose: Purpose = "service" if message.purpose == "service" else "marketing"
    quiet = facts.contact.paused_until if purpose == "marketing" else None
    hours, account = program_of(row.version_id).hours, facts.account
    setting = Setting(facts.zone, hours, account.care, row.joined_at, facts.contact, home=account.zone)
    return setting.next_allowed(max(now, quiet or now), channel, purpose)
