"""Whom of the team what happens is told: a reply that waits for them, an appointment that comes about, moves or is called off; as each has
said they are told of it (told.py); a connection that breaks, a file that is brought in. Once each, by its key. What goes by mail later
(a reply, a task) goes only while it still waits."""

from datetime import timedelta

from bluffside.core.words import counted
from bluffside.server.diary.models import Appointment, Notice, Task
from bluffside.server.diary.services import OF_TASK, Change, NewNotice, due_key, tell
from bluffside.server.diary.told import Telling
from bluffside.server.messaging.models import Correspondence, Reply
from bluffside.server.people.models import Contact, ContactImport
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import Account, Connection, Person
from bluffside.server.practice.team import people_of
from bluffside.server.practice.words import moment

SOON = timedelta(minutes=2)  # what answers a reply by itself has done so by then
OF_REPLY = "reply:"
DID: dict[Change, str] = {
    "booked": "has booked",
    "moved": "has moved to",
    "cancelled": "does not come to",
    "missed": "has not come to",
}


def reply_waits(contact: Contact, reply: Reply) -> None:
    """By email alone: here, the page Replies and its number tell of it."""
    held = Correspondence.objects.filter(contact=contact).select_related("assigned").first()
    words = f"wrote by {reply.channel}: “{reply.text[:300]}”"
    _tell(contact, held.assigned if held else None, "reply", f"{OF_REPLY}{reply.pk}", words, SOON)


def appointment_changed(one: Appointment, change: Change) -> None:
    words = f"{DID[change]} {one.type}, {moment(one.start, one.account.zone)}"
    _tell(one.contact, one.member, "appointment", f"{change}:{one.pk}:{one.sequence}", words)


def connection_broke(row: Connection) -> None:
    """Whoever can see to it: the consultants, and whoever is responsible for the account."""
    account = row.account
    for person in people_of(account):
        if person.is_consultant or person.pk == account.responsible_id:
            words = f"{connections.label(row.kind, row.name)}: {row.fault}"
            key = f"connection:{row.pk}:{clock.now():%Y-%m-%dT%H:%M:%S}"
            _tell_of(account, person, "connection", key, words, "set-up/connections")


def import_ended(done: ContactImport) -> None:
    """Whoever brought it."""
    if done.by:
        words = f"“{done.file_name[:120]}” is brought in: {counted(done.added, 'person', 'people')} new, {done.changed} changed"
        words += f", {done.failed} rows not" if done.failed else ""
        _tell_of(done.account, done.by, "import", f"import:{done.pk}", f"{words}.", "people/bring-in")


def _tell_of(account: Account, person: Person, kind: str, key: str, words: str, place: str) -> None:
    told = Telling([person], account.zone, clock.now()).of(person.pk, kind)
    if told:
        tell(account, [NewNotice(None, key[:120], person.pk, words[:2_000], *told, place)])


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
    place = f"replies/{contact.pk}" if kind == "reply" else ""
    mail_at = told.mail_at or (now + later if later else None)
    tell(contact.account, [NewNotice(contact.pk, key, person.pk, words, kind != "reply", told.mail, mail_at, place)])


def settled_meanwhile(account: Account, notices: list[Notice]) -> set[int]:
    """Ids of those notices that tell of a reply which waits no more, or of a task that is done, due at another time, or somebody else's."""
    return _answered(account, notices) | _done(account, notices)


def _done(account: Account, notices: list[Notice]) -> set[int]:
    of = {one.pk: one for one in notices if one.key.startswith(OF_TASK)}
    keys = {pk: one.key.removeprefix(OF_TASK).rpartition(":")[0] for pk, one in of.items()}
    due = Task.objects.filter(account=account, key__in=keys.values(), done_at=None)
    stands = {(due_key(task.key, task.due_at), task.assigned_id) for task in due}
    return {pk for pk, one in of.items() if (one.key, one.person_id) not in stands}


def _answered(account: Account, notices: list[Notice]) -> set[int]:
    of = {one.pk: int(one.key.removeprefix(OF_REPLY)) for one in notices if one.key.startswith(OF_REPLY)}
    waiting = set(
        Reply.objects.filter(account=account, id__in=of.values(), settled_at=None).values_list("id", flat=True)
    )
    return {id for id, reply in of.items() if reply not in waiting}
