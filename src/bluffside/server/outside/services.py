"""What people do at the simulated phones and mailboxes, and what the stand-ins for outside services are asked."""

import json
import uuid
from datetime import datetime
from email.message import EmailMessage
from email.policy import default
from email.utils import formataddr
from typing import Any

from django.db import transaction

from bluffside.core.facts import TwoWay
from bluffside.server.capture.leads import parse, receive
from bluffside.server.capture.models import Lead, LeadSource
from bluffside.server.diary.models import Appointment
from bluffside.server.diary.services import book
from bluffside.server.messaging.inbound import take_mail
from bluffside.server.messaging.services import take_reply
from bluffside.server.outside.models import Asked, Item
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account


def advert(source: LeadSource, name: str, email: str, phone: str, wish: str) -> Lead:
    """The stand-in for an advert with a form: what somebody typed goes to the source's address, in a shape of its own."""
    sent = {
        "advert": {"id": "ad-4711", "title": source.name},
        "submitted": clock.now().isoformat(timespec="seconds"),
        "person": {"full name": name, "email": email, "phone": phone},
        "answers": [{"question": "What would you like?", "answer": wish}] if wish else [],
    }
    body = parse(json.dumps(sent).encode(), "application/json")
    return receive(source, body, str(uuid.uuid4()))


@transaction.atomic
def say(contact: Contact, channel: TwoWay, text: str) -> Item:
    """The contact writes to the account's number or address; the carrier passes it on."""
    account = contact.account
    item = Item.objects.create(
        key=f"in:{uuid.uuid4()}",
        channel=channel,
        inbound=True,
        ours=account.text_number if channel == "text" else account.sender_email,
        theirs=contact.mobile if channel == "text" else contact.email,
        text=text.strip()[:2_000],
        at=clock.now(),
        reported=True,
    )
    take_reply(account, channel, item.theirs, item.text, item.key)
    return item


@transaction.atomic
def say_as_stranger(account: Account, channel: TwoWay, address: str, name: str, text: str) -> str:
    """Somebody whom the account may not know writes to its number or address; answers what became of it."""
    key = f"in:{uuid.uuid4()}"
    ours = account.text_number if channel == "text" else account.sender_email
    Item.objects.create(
        key=key, channel=channel, inbound=True, ours=ours, theirs=address, text=text, at=clock.now(), reported=True
    )
    if channel == "text":
        return "It came in." if take_reply(account, "text", address, text, key) else "It changed nothing."
    mail = EmailMessage(policy=default)
    mail["From"], mail["To"], mail["Message-ID"] = formataddr((name, address)), ours, f"<{key[3:]}@outside.example>"
    mail.set_content(text)
    return "; ".join(one.did for one in take_mail(mail.as_bytes(), [ours])).capitalize() + "."


@transaction.atomic
def ask(service: str, key: str, account: str, body: dict[str, Any]) -> Asked:
    """A stand-in is asked for something; the same request again changes nothing."""
    asked, new = Asked.objects.select_for_update().get_or_create(
        key=key, defaults={"service": service, "account": account, "body": body, "at": clock.now()}
    )
    if not new:
        asked.times += 1
        asked.save(update_fields=["times"])
    return asked


def on_series(account: str, contact_id: int) -> dict[tuple[str, str, str], bool]:
    """Which lists and series of the list-and-series service a contact is on: (service, list or series, name)."""
    asked = Asked.objects.filter(service="series", account=account, body__person__contact=str(contact_id)).order_by(
        "id"
    )
    return {(one.body["service"], one.body["what"], one.body["name"]): one.body["on"] for one in asked}


def talks_with(account: str, contact_id: int) -> list[Asked]:
    """What the booking assistant was asked to book for a contact, the newest first."""
    asked = Asked.objects.filter(service="assistant", account=account, body__person__contact=str(contact_id))
    return list(asked.order_by("-id")[:20])


@transaction.atomic
def book_as_assistant(contact: Contact, asked: Asked, start: datetime) -> Appointment:
    """The booking assistant has talked with the contact, and books. Raises diary.BadAppointment."""
    made = book(contact, asked.body["type"], start)
    asked.settled_at = start
    asked.save(update_fields=["settled_at"])
    return made
