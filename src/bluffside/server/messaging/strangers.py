"""Emails from people nobody in the account knows.

Anybody can write to an address, and most who do are not to be written to: so a writer becomes a contact only when a rule
for what comes in fits (areas above say when, by `let_in_when`), or when somebody of the team says so. Until then the
mail is kept apart, and the oldest go when there are too many. (Whoever texts becomes a contact at once: a number is
known to few.)
"""

from collections.abc import Callable
from dataclasses import dataclass

from django.db import transaction

from bluffside.server.events.stream import WORLD, Cause
from bluffside.server.messaging.models import Reply, StrangerMail
from bluffside.server.messaging.services import take_reply
from bluffside.server.people.models import Contact
from bluffside.server.people.services import BadContact, add_contact, contact_at
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account

MOST_KEPT = 1_000


@dataclass(frozen=True, slots=True)
class Written:
    """An email as it came; `key` is its Message-ID."""

    key: str
    address: str
    name: str
    subject: str
    text: str


LetIn = Callable[[Account, Written], bool]
_let_in: list[LetIn] = []


def let_in_when(wanted: LetIn) -> None:
    """Has an area decide whose mail makes them a contact. Called when apps are ready."""
    _let_in.append(wanted)


@transaction.atomic
def came(account: Account, mail: Written) -> Reply | None:
    """Takes a mail of somebody who is no contact: as a reply of theirs when they become one, else it is kept apart."""
    if any(wanted(account, mail) for wanted in _let_in):
        try:
            return _as_contact(account, mail, WORLD)
        except BadContact:
            pass  # an address that is none: kept apart like any other
    StrangerMail.objects.get_or_create(
        account=account,
        key=mail.key,
        defaults={
            "address": mail.address[:254],
            "name": mail.name[:120],
            "subject": mail.subject[:500],
            "text": mail.text,
            "received_at": clock.now(),
        },
    )
    kept = StrangerMail.objects.filter(account=account).order_by("-id")
    if oldest := kept.values_list("id", flat=True)[MOST_KEPT : MOST_KEPT + 1].first():
        kept.filter(id__lte=oldest).delete()
    return None


@transaction.atomic
def take_in(mail: StrangerMail, cause: Cause) -> Contact:
    """Makes the writer a contact, and all their mails that were kept replies of theirs. Raises BadContact."""
    account, address = mail.account, mail.address
    for one in StrangerMail.objects.filter(account=account, address=address).order_by("received_at", "id"):
        _as_contact(account, Written(one.key, address, one.name, one.subject, one.text), cause)
        one.delete()
    contact = contact_at(account, "email", address)
    assert contact
    return contact


def _as_contact(account: Account, mail: Written, cause: Cause) -> Reply | None:
    if contact_at(account, "email", mail.address) is None:
        first, _, last = mail.name.partition(" ")
        about = mail.subject or mail.text
        fields = {"first_name": first[:60], "last_name": last.strip()[:60], "email": mail.address}
        add_contact(account, fields, cause, how=f"by writing “{about[:60]}”")
    return take_reply(account, "email", mail.address, mail.text, mail.key, subject=mail.subject)
