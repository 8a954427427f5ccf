"""What people do at the simulated phones and mailboxes, and what the stand-ins for outside services are asked."""

import json
import uuid
from email.message import EmailMessage
from email.policy import default
from email.utils import formataddr
from typing import Any

from django.db import transaction

from bluffside.core.terms import ADDRESS_OF, CHANNEL_KINDS, TwoWay
from bluffside.server.capture.leads import parse, receive
from bluffside.server.capture.models import Lead, LeadSource
from bluffside.server.messaging.inbound import take_mail
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.parcels import message_id, read_key
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
        ours=getattr(account, CHANNEL_KINDS[channel].ours),
        theirs=getattr(contact, ADDRESS_OF[channel]),
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
    ours = getattr(account, CHANNEL_KINDS[channel].ours)
    Item.objects.create(
        key=key, channel=channel, inbound=True, ours=ours, theirs=address, text=text, at=clock.now(), reported=True
    )
    if channel != "email":
        return "It came in." if take_reply(account, channel, address, text, key) else "It changed nothing."
    mail = EmailMessage(policy=default)
    mail["From"], mail["To"], mail["Message-ID"] = formataddr((name, address)), ours, f"<{key[3:]}@outside.example>"
    mail.set_content(text)
    return "; ".join(one.did for one in take_mail(mail.as_bytes(), [ours])).capitalize() + "."


REPORT = """From: feedback@outside.example
To: {to}
Subject: Marked as unwanted
MIME-Version: 1.0
Message-ID: <{id}@outside.example>
Content-Type: multipart/report; report-type=feedback-report; boundary="=report"

--=report
Content-Type: text/plain; charset=utf-8

Somebody marked this mail as unwanted.
--=report
Content-Type: message/feedback-report

Feedback-Type: abuse
User-Agent: Outside/1
Version: 1

--=report
Content-Type: text/rfc822-headers

Message-ID: {about}
--=report--
"""


@transaction.atomic
def mark_as_unwanted(item: Item) -> bool:
    """The contact marks a mail as unwanted, and their provider reports it to where it came from (RFC 5965). Answers whether it was one
    that the account keeps."""
    known = read_key(item.key)
    message = Message.objects.filter(account_id=known[0], key=known[1]).first() if known else None
    if message is None:
        return False
    about = message_id(message, item.ours.rpartition("@")[2])
    take_mail(REPORT.format(to=item.ours, id=uuid.uuid4(), about=about).encode(), [item.ours])
    return True


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
