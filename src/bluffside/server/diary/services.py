"""Writes on tasks, notices and appointments."""

from collections.abc import Callable, Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any, Literal, NamedTuple

from django.db import transaction
from django.db.models import Q, QuerySet

from bluffside.core.engine.turn import Setting
from bluffside.core.terms import PURPOSES
from bluffside.server import sql
from bluffside.server.diary.models import Appointment, Notice, Task
from bluffside.server.diary.told import Telling
from bluffside.server.events.set_going import CalledOff, among
from bluffside.server.events.stream import WORLD, Cause, Happened, hold, record, take_back
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import load_contacts
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake

CONTACTING = (Task.Kind.CALL, Task.Kind.LETTER)
OF_TASK = "task:"
TRY_AGAIN = timedelta(hours=3)  # common practice
TAKEN_BACK_FOR = timedelta(seconds=8)  # as long as the page offers it
Outcome = Task.Outcome
OF_KIND = {
    Task.Kind.CALL: (
        Outcome.REACHED,
        Outcome.NO_ANSWER,
        Outcome.LEFT_MESSAGE,
        Outcome.RING_BACK,
        Outcome.DROPPED,
    ),  # fmt: skip
    Task.Kind.TO_DO: (Outcome.DONE, Outcome.DROPPED),
    Task.Kind.LETTER: (Outcome.DONE, Outcome.DROPPED),
    Task.Kind.CUSTOM: (Outcome.DONE, Outcome.DROPPED),
}


class NewTask(NamedTuple):
    """A task to be put on the list; its fields are columns."""

    contact_id: int
    key: str
    kind: str
    title: str
    say: str
    last: str
    assigned_id: int | None
    enrolment_id: int | None
    step: str
    attempts: int
    due_at: datetime


class NewNotice(NamedTuple):
    """A notice to a member, in the application, by email, or both; its fields are columns."""

    contact_id: int | None
    key: str
    person_id: int
    text: str
    in_app: bool
    mail: bool
    mail_at: datetime | None = None
    place: str = ""


class CannotRecord(ValueError):
    """Why an outcome cannot be recorded, in words."""


def make(account: Account, tasks: Sequence[NewTask], cause_of: Mapping[str, Cause]) -> list[Happened]:
    """Puts tasks on the list, in the transaction at hand; a key that is there already is left as it is. Answers what happened
    by it, for the caller to record with the rest."""
    now = clock.now()
    made = sql.insert(
        Task,
        (*NewTask._fields, "account_id", "made_at"),
        [(*one._replace(title=one.title[:300], last=one.last[:500]), account.id, now) for one in tasks],
        on_conflict="ON CONFLICT DO NOTHING",
        returning="id, contact_id, kind, title, key",
    )
    return [
        Happened("task.made", contact_id, {"task": id, "kind": kind, "title": title}, cause_of[key])
        for id, contact_id, kind, title, key in made
    ]


def tell(account: Account, notices: Sequence[NewNotice]) -> None:
    now = clock.now()
    rows = [(*notice, account.id, now) for notice in notices]
    sql.insert(Notice, (*NewNotice._fields, "account_id", "at"), rows, on_conflict="ON CONFLICT DO NOTHING")
    if any(notice.mail for notice in notices):
        wake("notices")


def due_key(task_key: str, due_at: datetime) -> str:
    return f"{OF_TASK}{task_key}:{due_at:%Y%m%dT%H%M%S}"


def due_notice(task: NewTask, telling: Telling) -> NewNotice | None:
    """To whoever has a task in hand, by email when it comes due: here, the page Today has it."""
    told = telling.of(task.assigned_id, "task", at=task.due_at) if task.assigned_id else None
    if told is None or task.assigned_id is None:
        return None
    mail_at = told.mail_at or (task.due_at if task.due_at > telling.now else None)
    key, words = due_key(task.key, task.due_at), f"“{task.title}” is due"
    return NewNotice(task.contact_id, key, task.assigned_id, words[:2_000], False, told.mail, mail_at, "today")


def call_off(account: Account, called_off: Sequence[CalledOff]) -> list[Happened]:
    """What nobody has dealt with yet is dropped, in the transaction at hand. Answers what happened by it, for the caller to
    record."""
    found = among(Task.objects.filter(account=account, done_at=None), called_off)
    return _drop([(row, off.why, off.cause) for row, off in found])


def unwanted(task: Task) -> str:
    """Why a call, letter or card had better not be made, by what its contact has said; empty when nothing speaks against
    it."""
    if task.kind not in CONTACTING:
        return ""
    if task.contact.do_not_contact:
        return "asked for no contact at all"
    said = [one for one in task.contact.consents.all() if one.channel == task.kind and one.state == "withdrawn"]
    return "asked for no letters" if len(said) == len(PURPOSES) else ""


def _drop(rows: Sequence[tuple[Task, str, Cause]]) -> list[Happened]:
    if rows:
        Task.objects.filter(id__in=[row.id for row, *_ in rows]).update(done_at=clock.now(), outcome=Outcome.DROPPED)
    return [
        Happened(
            "task.called_off", row.contact_id, {"task": row.id, "kind": row.kind, "title": row.title, "why": why}, cause
        )
        for row, why, cause in rows
    ]


@transaction.atomic
def call_off_contacting(contact: Contact, why: str) -> int:
    """Calls to somebody, and letters and cards to print for them, come off the list; answers how many."""
    rows = list(contact.tasks.filter(done_at=None, kind__in=CONTACTING).order_by("id").select_for_update())
    record(contact.account, _drop([(row, why, WORLD) for row in rows]))
    return len(rows)


@transaction.atomic
def record_outcome(
    task: Task,
    outcome: Outcome,
    by: Person,
    note: str = "",
    at: datetime | None = None,
    held_for: timedelta = timedelta(0),
) -> Task:
    """How it went; answers the task as it is now. A call nobody answered, or at which a message was left, comes back while
    tries are left, some hours later, when the team is there and somebody may be rung. One that is to be rung back comes
    back `at` the moment that was agreed, whatever tries are left. For as long as it is `held_for`, no workflow hears of it,
    and it can be taken back. Raises CannotRecord."""
    task = Task.objects.select_for_update(of=("self",)).select_related("account", "contact", "assigned").get(id=task.id)
    if task.done_at:
        raise CannotRecord("This was settled already.")
    if outcome not in OF_KIND[Task.Kind(task.kind)]:
        raise CannotRecord(f"“{outcome}” is not an outcome of this.")
    now, note = clock.now(), note.replace("\0", "").strip()[:1_000]
    if outcome == Outcome.RING_BACK and (at is None or at <= now):
        raise CannotRecord("Say when they want to be rung back: a moment that is still to come.")
    task.before = {"due_at": task.due_at.isoformat(), "attempts": task.attempts}
    task.tried += 1
    task.outcome = outcome
    task.tries = [*task.tries, [now.isoformat(), outcome, by.name, note]]
    if outcome == Outcome.RING_BACK and at:
        task.due_at, task.attempts = at, max(task.attempts, task.tried + 1)
    elif outcome in (Outcome.NO_ANSWER, Outcome.LEFT_MESSAGE) and task.tried < task.attempts:
        task.due_at = _setting_of(task.contact).next_call(now + TRY_AGAIN)
    else:
        task.done_at = now
    task.save()
    if task.done_at is None and task.assigned:
        new = NewTask(**{name: getattr(task, name) for name in NewTask._fields})
        again = due_notice(new, Telling([task.assigned], task.account.zone, now))
        tell(task.account, [again] if again else [])
    data = {
        "task": task.id,
        "step": task.step,
        "kind": task.kind,
        "title": task.title,
        "outcome": outcome,
        "tried": task.tried,
        "of": task.attempts,
        "note": note,
    }
    cause = Cause(actor=by, enrolment_id=task.enrolment_id)
    ids = record(task.account, [Happened(_told_by(task), task.contact_id, data, cause)])
    if held_for:
        hold(task.account, ids, now + held_for)
    return task


def _told_by(task: Task) -> str:
    return "task.tried" if task.done_at is None else "task.done"


@transaction.atomic
def take_back_outcome(task: Task) -> Task:
    """Has the last outcome never have been recorded; answers the task as it was before. Raises CannotRecord once it has been
    heard of: what a workflow has done by it cannot be taken back."""
    task = Task.objects.select_for_update(of=("self",)).select_related("account").get(id=task.id)
    if not task.before or not task.tries:
        raise CannotRecord("There is nothing to take back.")
    task.tries.pop()
    if not take_back(task.account, _told_by(task), task.contact_id, task=task.id):
        raise CannotRecord("It cannot be taken back any more: it has been heard, and what follows on it goes its way.")
    task.due_at, task.attempts = datetime.fromisoformat(task.before["due_at"]), task.before["attempts"]
    task.tried, task.done_at, task.before = task.tried - 1, None, None
    task.outcome = task.tries[-1][1] if task.tries else ""
    task.save()
    return task


def _setting_of(contact: Contact) -> Setting:
    facts = load_contacts(contact.account, [contact.id])[contact.id]
    return Setting(facts.zone, care=facts.account.care, contact=facts.contact, home=facts.account.zone)


# ---- appointments


class BadAppointment(ValueError):
    """What is wrong, in words."""


STANDING = (Appointment.State.BOOKED, Appointment.State.CONFIRMED)
Change = Literal["booked", "moved", "cancelled", "missed"]
_to_tell: list[Callable[[Appointment, Change], None]] = []


def when_changed(act: Callable[[Appointment, Change], None]) -> None:
    """Called when apps are ready: what is to be done, in the same transaction, when an appointment is booked, moved or
    cancelled, whoever does it."""
    _to_tell.append(act)


def changed(one: Appointment, change: Change) -> None:
    for act in _to_tell:
        act(one, change)


def _data(one: Appointment) -> dict[str, Any]:
    return {"appointment": str(one.id), "type": one.type, "start": one.start, "place": one.place}


@transaction.atomic
def book(
    contact: Contact,
    type: str,
    start: datetime,
    *,
    minutes: int = 0,
    place: str = "",
    member: Person | None = None,
    first: Appointment | None = None,
    announce: bool = True,
    cause: Cause = WORLD,
) -> Appointment:
    """`first`: the first date of the course that this is a later one of; a course is told of once. `announce`: whoever listens
    (`when_changed`) is told now, and not by the caller when more of it is done. Raises BadAppointment for one that would begin in
    the past."""
    if start < clock.now():
        raise BadAppointment("That moment is past.")
    made = Appointment.objects.create(
        account=contact.account,
        contact=contact,
        type=type[:120],
        start=start,
        end=start + timedelta(minutes=minutes) if minutes else None,
        place=place[:200],
        member=member,
        first=first,
    )
    if first is None:
        record(contact.account, [Happened("appointment.booked", contact.id, _data(made), cause)])
        if announce:
            changed(made, "booked")
    return made


@transaction.atomic
def move(
    appointment: Appointment,
    start: datetime,
    cause: Cause = WORLD,
    *,
    member: Person | None = None,
    quietly: bool = False,
    announce: bool = True,
) -> Appointment:
    """To another time, and to somebody else where one is named. `quietly`: a later date of a course, told of with its first.
    `announce`: as when it is booked. Raises BadAppointment."""
    row = _standing(appointment)
    if row.end:
        row.end += start - row.start
    row.start, row.state, row.sequence = start, Appointment.State.BOOKED, row.sequence + 1
    row.member = member or row.member
    row.save(update_fields=["start", "end", "state", "sequence", "member"])
    if not quietly:
        record(row.account, [Happened("appointment.moved", row.contact_id, _data(row), cause)])
        if announce:
            changed(row, "moved")
    return row


@transaction.atomic
def settle(appointment: Appointment, state: Appointment.State, cause: Cause = WORLD, whole: bool = True) -> Appointment:
    """It is confirmed, cancelled, missed or attended. What is cancelled of a course is all of it that is to come, or the one date
    (not `whole`). Raises BadAppointment when it does not stand any more."""
    row = _standing(appointment)
    if state != Appointment.State.CONFIRMED:
        record(row.account, [Happened(f"appointment.{state}", row.contact_id, _data(row), cause)])
    if state == Appointment.State.CANCELLED:
        cancel(row, whole)
        return row
    row.state = state
    row.save(update_fields=["state"])
    if state == Appointment.State.MISSED:
        changed(row, "missed")
    return row


def cancel(row: Appointment, whole: bool = True) -> None:
    """It, and all that is to come of its course, does not stand any more; in the transaction at hand, recording nothing."""
    others = dates_of(row).filter(state__in=STANDING, start__gt=clock.now()).exclude(pk=row.pk)
    also = others.select_for_update(of=("self",)).select_related("account", "contact") if whole else ()
    gone = [row, *also]
    for one in gone:
        one.state, one.sequence = Appointment.State.CANCELLED, one.sequence + 1
        one.save(update_fields=["state", "sequence"])
    for one in gone:
        changed(one, "cancelled")


def dates_of(row: Appointment) -> QuerySet[Appointment]:
    """All dates of the course that it is one of, itself among them, in their order; itself alone where it is none of a course."""
    first = row.first_id or row.pk
    return Appointment.objects.filter(Q(pk=first) | Q(first_id=first), account=row.account_id).order_by("start", "id")


def _standing(appointment: Appointment) -> Appointment:
    row = Appointment.objects.select_for_update(of=("self",)).select_related("account").get(id=appointment.id)
    if row.state not in STANDING:
        raise BadAppointment(f"This appointment is {row.get_state_display().lower()} already.")
    return row
