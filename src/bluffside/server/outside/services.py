"""What people do at the simulated phones and mailboxes."""

import uuid

from django.db import transaction

from bluffside.core.facts import TwoWay
from bluffside.server.messaging.services import take_reply
from bluffside.server.outside.models import Item
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock


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
