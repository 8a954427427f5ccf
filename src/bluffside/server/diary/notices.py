"""Whom of the team what happens is told: a reply that waits for them, an appointment that comes about, moves or is called off; as each has
said they are told of it (told.py). Once each, by its key."""

from datetime import timedelta

from bluffside.server.diary.models import Appointment, Notice
from bluffside.server.diary.services import Change, NewNotice, tell
from bluffside.server.diary.told import Telling
from bluffside.server.messaging.models import Correspondence, Reply
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.words import moment

SOON = timedelta(minutes=2)  # what answers a reply by itself has done so by then
OF_REPLY = "reply:"
DID: dict[Change, str] = {"booked": "has booked", "moved": "has moved to", "cancelled": "does not come to"}


def reply_waits(contact: Contact, reply: Reply) -> None:
    """By email alone: here, the page Replies and its number tell of it."""
    held = Correspondence.objects.filter(contact=contact).select_related("assigned").first()
    words = f"wrote by {reply.channel}: “{reply.text[:300]}”"
    _tell(contact, held.assigned if held else None, "reply", f"{OF_REPLY}{reply.pk}", words, SOON)


def appointment_changed(one: Appointment, change: Change) -> None:
    words = f"{DID[change]} {one.type}, {moment(one.start, one.account.zone)}"
    _tell(one.contact, one.member, "appointment", f"{change}:{one.pk}:{one.sequence}", words)


def _tell(
    contact: Contact, whose: Person | None, kind: str, key: str, words: str, later: timedelta | None = None
) -> None:
    person = whose or contact.responsible or contact.account.responsible
    if person is None:
        return
    now = clock.now()
    told = Telling([person], contact.account.zone, now).of(person.pk, kind, in_app=kind != "reply")
    if told is None:
        return
    mail_at = told.mail_at or (now + later if later else None)
    tell(contact.account, [NewNotice(contact.pk, key, person.pk, words, kind != "reply", told.mail, mail_at)])


def settled_meanwhile(account: Account, notices: list[Notice]) -> set[int]:
    """Ids of those notices that tell of a reply which waits no more."""
    of = {one.pk: int(one.key.removeprefix(OF_REPLY)) for one in notices if one.key.startswith(OF_REPLY)}
    waiting = set(
        Reply.objects.filter(account=account, id__in=of.values(), settled_at=None).values_list("id", flat=True)
    )
    return {id for id, reply in of.items() if reply not in waiting}
