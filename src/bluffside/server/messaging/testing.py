"""Messages sent to oneself to see how they arrive: marked as tests, counted nowhere. One at once, or a whole series a
little apart, which the worker hands over as they come due."""

from collections.abc import Sequence
from datetime import timedelta
from secrets import token_hex

from django.db import transaction

from bluffside.core.channel_kinds.mail_head import SentHead
from bluffside.core.engine.effects import SendMessage
from bluffside.core.letters.compiling import Addressed
from bluffside.core.letters.document import Letter
from bluffside.core.messages.closing import closing
from bluffside.core.terms import ADDRESS_OF, Channel
from bluffside.server.messaging import heads, letters
from bluffside.server.messaging.carrier import Parcel, carrier_for, tell_of
from bluffside.server.messaging.models import OwnCopy
from bluffside.server.messaging.parcels import Senders, carrier_key
from bluffside.server.people.queries import account_facts
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake

BATCH = 50
NO_HEAD = SentHead()


class NotSent(ValueError):
    """Why it was not, in words."""


def to_oneself(
    account: Account,
    person: Person,
    channel: Channel,
    subject: str,
    body: str,
    sender: str = "",
    mark: str = "",
    letter: Addressed | None = None,
    head: SentHead = NO_HEAD,
) -> str:
    """Hands it to the carrier, once for a mark; answers the address it went to. Raises NotSent."""
    if not _reaches_members(channel):
        raise NotSent("only what goes to an email address or a mobile number can be sent to oneself.")
    to = person.email if ADDRESS_OF[channel] == "email" else person.phone
    if not to:
        raise NotSent("you have no phone number of your own here.")
    if not body.strip():
        raise NotSent("it has no words yet.")
    if channel in connections.switched_off(account, "channel"):
        raise NotSent("its connection is switched off.")
    named = Senders(account).of(channel, sender, "service")
    usual = (account.sender_email, account.sender_name) if channel == "email" else (account.text_number, account.name)
    address, shown = (named.address, named.shown_as or usual[1]) if named else usual
    key = carrier_key(account.id, f"test.{mark or token_hex(8)}")
    if channel == "email":
        subject = f"Test: {subject}"[:500]
        footer = f"{account.name}, {account.postal_address}\nA test to yourself; the link to leave stands here."
        text = f"{body}\n\n--\n{footer}"
    else:
        text = f"Test: {body}{closing(channel, body, 'their link stands here', account_facts(account).care)}"
    html = letters.html_for(account, letter, head.tags) if letter else ""
    files = heads.carried(head, heads.enclosed(account, [head]))
    headers = (("Reply-To", head.reply_to),) if head.reply_to else ()
    parcel = Parcel(key, channel, address, shown, to, subject, text, html, headers=headers, files=files)
    [answer] = carrier_for(channel).hand_over([parcel])
    tell_of(account, channel, [answer])
    if answer.did != "taken":
        raise NotSent(answer.reason or "the carrier did not take it.")
    return to


def _reaches_members(channel: Channel) -> bool:
    return ADDRESS_OF[channel] in ("email", "mobile")


# ---- a whole series


@transaction.atomic
def series(
    account: Account, person: Person, workflow_id: int, messages: Sequence[SendMessage], apart: timedelta
) -> list[OwnCopy]:
    """The messages one after the other, so long apart, the first at once. What was still to come of an earlier series
    to the same person does not come any more. Raises NotSent when none can be sent to a person."""
    spoken = [one for one in messages if _reaches_members(one.channel)]
    if not spoken:
        raise NotSent("nothing in it goes to an email address or a mobile number.")
    if not person.phone and all(ADDRESS_OF[one.channel] != "email" for one in spoken):
        raise NotSent("you have no phone number of your own here.")
    OwnCopy.objects.filter(account=account, person=person).delete()
    now = clock.now()
    copies = OwnCopy.objects.bulk_create(
        OwnCopy(
            account=account,
            person=person,
            workflow_id=workflow_id,
            number=number,
            channel=one.channel,
            sender=one.sender,
            name=one.name,
            subject=one.subject,
            body=one.body,
            letter={"lines": one.letter.letter.model_dump(mode="json"), "values": list(one.letter.values)}
            if one.letter
            else None,
            head=heads.plain(one.head) if one.head else None,
            due_at=now + number * apart,
        )
        for number, one in enumerate(spoken)
    )
    wake("copies")
    return copies


def stop_series(account: Account, person: Person) -> int:
    """What has not gone yet does not go; answers how many that were."""
    return OwnCopy.objects.filter(account=account, person=person).exclude(due_at=None).delete()[0]


@transaction.atomic
def copies_batch(account: Account) -> int:
    """Hands over what is due; the carrier knows each by its key, so that one that a crash cut off comes once."""
    now = clock.now()
    due = OwnCopy.objects.filter(account=account, due_at__lte=now).order_by("due_at", "id")
    copies = list(due.select_for_update(skip_locked=True, of=("self",)).select_related("person")[:BATCH])
    for one in copies:
        subject = one.subject or one.name
        kept = one.letter or {}
        sent = Addressed(Letter.model_validate(kept["lines"]), tuple(map(tuple, kept["values"]))) if kept else None
        try:
            head = heads.read(one.head)
            to_oneself(account, one.person, one.channel, subject, one.body, one.sender, f"copy{one.id}", sent, head)
            one.gone_at = now
        except NotSent as error:
            one.fault = str(error)[:200]
        one.due_at = None
    OwnCopy.objects.bulk_update(copies, ["due_at", "gone_at", "fault"])
    return len(copies)
