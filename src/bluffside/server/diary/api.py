"""Today: the calls, to-dos and replies of an account's team."""

from datetime import datetime, time, timedelta

from django.db.models import Q, QuerySet
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.facts import TwoWay
from bluffside.core.phone_numbers import as_written
from bluffside.core.timing.local import at_time, to_instant, to_local
from bluffside.server.diary.models import Appointment, AppointmentState, Notice, Task
from bluffside.server.diary.services import (
    STANDING,
    TAKEN_BACK_FOR,
    CannotRecord,
    record_outcome,
    take_back_outcome,
    unwanted,
)
from bluffside.server.messaging import answering
from bluffside.server.messaging.correspondence import last_words, waiting
from bluffside.server.messaging.models import Correspondence, Reply, StrangerMail
from bluffside.server.messaging.services import CannotSend
from bluffside.server.people.api import contact_of
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment

router = Router(tags=["today"], auth=InAccount())
MOST_WAITING = 50  # who are shown on Today; all are under Replies


class TaskRow(Schema):
    id: int
    kind: Task.Kind
    title: str
    say: str
    last: str
    contact_id: int
    contact: str
    mobile: str
    number: str  # the mobile, as the account's country writes it
    assigned: str
    tried: int
    attempts: int
    tries: list[str]  # how each try before went, and what was said about it
    due_at: datetime
    local_due: str
    late_days: int
    unwanted: str  # why it had better not be done: the contact has asked for none


class WaitingRow(Schema):
    """Somebody who has written and waits. `before`: what was last written to them by that channel; `turn`: at which it can be acted on;
    `likely_out`: it may mean that they want no more, and marketing to them waits until somebody has looked."""

    contact_id: int
    contact: str
    channel: TwoWay
    text: str
    before: str
    likely_out: bool
    assigned: str
    turn: int
    local_at: str


class NoticeRow(Schema):
    """`place`: where it stands, below the account."""

    id: int
    place: str
    contact: str
    text: str
    local_at: str


class AppointmentRow(Schema):
    """One of today's, in the order of the day; `over`: it has begun, so that it can be said whether they came."""

    id: int
    type: str
    contact_id: int
    contact: str
    mobile: str
    number: str
    local_start: str
    place: str
    member: str
    mine: bool
    state: AppointmentState
    over: bool


class Today(Schema):
    """`to_dos`: everything that is not a call. `notices`: what this person is told and has not seen yet."""

    notices: list[NoticeRow]
    appointments: list[AppointmentRow]
    calls: list[TaskRow]
    to_dos: list[TaskRow]
    replies: list[WaitingRow]
    strangers: int  # emails from people nobody here knows
    later: int
    done_today: int


class WaitingCounts(Schema):
    """What the strip says with a number: people who wait for an answer, and what this person was told and has not seen."""

    replies: int
    notices: int


class OutcomeIn(Schema):
    """`at`: when to ring back, a local time of the account."""

    outcome: Task.Outcome
    note: str = Field(default="", max_length=1_000)
    at: datetime | None = None


class Recorded(Schema):
    """`comes_back`: when it is on the list again; empty when it is settled. `undo_for`: seconds in which it can be taken
    back."""

    comes_back: str = ""
    undo_for: float


class Words(Schema):
    text: str = Field(min_length=1, max_length=5_000)
    channel: TwoWay = "text"


def _try_words(one: tuple[str, str, str, str], zone: str) -> str:
    at, outcome, by, note = one
    said = f"{moment(datetime.fromisoformat(at), zone)}, {by}: {outcome.replace('_', ' ')}"
    return f"{said}. {note}" if note else said


def _task_row(task: Task, now: datetime, zone: str, region: str) -> TaskRow:
    return TaskRow(
        id=task.id,
        kind=Task.Kind(task.kind),
        title=task.title,
        say=task.say,
        last=task.last if task.tried + 1 >= task.attempts else "",
        contact_id=task.contact_id,
        contact=task.contact.name,
        mobile=task.contact.mobile,
        number=as_written(task.contact.mobile, region),
        assigned=task.assigned.name if task.assigned else "",
        tried=task.tried,
        attempts=task.attempts,
        tries=[_try_words(one, zone) for one in task.tries],
        due_at=task.due_at,
        local_due=to_local(task.due_at, zone).isoformat(timespec="minutes"),
        late_days=max(0, (to_local(now, zone).date() - to_local(task.due_at, zone).date()).days),
        unwanted=unwanted(task),
    )


def _appointments(request: AccountRequest, midnight: datetime, now: datetime) -> list[AppointmentRow]:
    """Those of the day, and those of the week before of which nobody has said whether they came."""
    own, zone = request.account, request.account.zone
    local = to_local(now, zone)
    end = at_time(local.date() + timedelta(days=1), time(), zone)
    rows = Appointment.objects.filter(account=own, start__gte=midnight - timedelta(days=7), start__lt=end)
    rows = rows.exclude(state=Appointment.State.CANCELLED).select_related("contact", "member").order_by("start", "id")
    open_ones = Q(start__gte=midnight) | Q(state__in=STANDING)
    return [
        AppointmentRow(
            id=one.pk, type=one.type, contact_id=one.contact_id, contact=one.contact.name, mobile=one.contact.mobile,
            number=as_written(one.contact.mobile, own.region), place=one.place, member=one.member.first_name if one.member else "",
            local_start=to_local(one.start, zone).isoformat(timespec="minutes"), mine=one.member_id == request.person.pk,
            state=one.now, over=one.start <= now,
        )
        for one in rows.filter(open_ones)[:200]
    ]  # fmt: skip


def _waiting_row(one: Correspondence, said: Reply, zone: str) -> WaitingRow:
    earlier = one.contact.messages.filter(channel=said.channel, queued_at__lte=said.received_at)
    before = earlier.order_by("-queued_at").first()
    return WaitingRow(
        contact_id=one.contact_id, contact=one.contact.name, channel=said.channel, text=said.text,
        before=before.body if before else "", likely_out=one.to_decide, assigned=one.assigned.first_name if one.assigned else "",
        turn=one.turn, local_at=to_local(said.received_at, zone).isoformat(timespec="minutes"),
    )  # fmt: skip


def _unseen(request: AccountRequest) -> QuerySet[Notice]:
    return Notice.objects.filter(account=request.account, person=request.person, in_app=True, seen_at=None)


@router.get("waiting", response=WaitingCounts)
def waiting_counts(request: AccountRequest, account: Path[str]) -> WaitingCounts:
    return WaitingCounts(replies=waiting(request.account).count(), notices=_unseen(request).count())


@router.get("today", response=Today)
def today(request: AccountRequest, account: Path[str]) -> Today:
    now, zone = clock.now(), request.account.zone
    midnight = now - timedelta(hours=to_local(now, zone).hour, minutes=to_local(now, zone).minute)
    tasks = Task.objects.filter(account=request.account)
    due = tasks.filter(done_at=None, due_at__lte=now).select_related("contact", "assigned").order_by("due_at", "id")
    due = due.prefetch_related("contact__consents")
    rows = [_task_row(task, now, zone, request.account.region) for task in due[:200]]
    waits = list(waiting(request.account).select_related("contact", "assigned")[:MOST_WAITING])
    said = last_words([one.contact_id for one in waits])
    return Today(
        notices=[
            NoticeRow(
                id=one.id,
                place=one.place or f"people/{one.contact_id}",
                contact=one.contact.name if one.contact else "",
                text=one.text,
                local_at=to_local(one.at, zone).isoformat(timespec="minutes"),
            )
            for one in _unseen(request).select_related("contact").order_by("-id")[:50]
        ],
        appointments=_appointments(request, midnight, now),
        calls=[row for row in rows if row.kind == Task.Kind.CALL],
        to_dos=[row for row in rows if row.kind != Task.Kind.CALL],
        replies=[_waiting_row(one, said[one.contact_id], zone) for one in waits if one.contact_id in said],
        strangers=StrangerMail.objects.filter(account=request.account).count(),
        later=tasks.filter(done_at=None, due_at__gt=now).count(),
        done_today=tasks.filter(done_at__gte=midnight, done_at__lte=now).count(),
    )


@router.post("tasks/{int:task_id}/outcome", response=Recorded)
def outcome(request: AccountRequest, account: Path[str], task_id: int, outcome: OutcomeIn) -> Recorded:
    require(request, "tasks")
    task = get_object_or_404(Task, account=request.account, id=task_id)
    zone = request.account.zone
    at = to_instant(outcome.at.replace(tzinfo=None), zone) if outcome.at else None
    try:
        task = record_outcome(task, outcome.outcome, request.person, outcome.note, at, TAKEN_BACK_FOR)
    except CannotRecord as error:
        raise HttpError(409, str(error)) from None
    comes_back = "" if task.done_at else moment(task.due_at, zone)
    return Recorded(comes_back=comes_back, undo_for=TAKEN_BACK_FOR.total_seconds())


@router.delete("tasks/{int:task_id}/outcome", response={204: None})
def take_outcome_back(request: AccountRequest, account: Path[str], task_id: int) -> tuple[int, None]:
    """The task stands on the list as before, and nothing was heard of how it went."""
    require(request, "tasks")
    task = get_object_or_404(Task, account=request.account, id=task_id)
    try:
        take_back_outcome(task)
    except CannotRecord as error:
        raise HttpError(409, str(error)) from None
    return 204, None


@router.post("notices/{int:notice_id}/seen", response={204: None})
def seen(request: AccountRequest, account: Path[str], notice_id: int) -> tuple[int, None]:
    """Takes a notice of one's own off the list."""
    mine = Notice.objects.filter(account=request.account, person=request.person)
    notice = get_object_or_404(mine, id=notice_id)
    if notice.seen_at is None:
        notice.seen_at = clock.now()
        notice.save(update_fields=["seen_at"])
    return 204, None


@router.post("contacts/{int:contact_id}/write", response={204: None})
def write(request: AccountRequest, account: Path[str], contact_id: int, words: Words) -> tuple[int, None]:
    """A message to one contact, written by a person."""
    require(request, "people")
    try:
        answering.write(contact_of(request, contact_id), words.channel, words.text, request.person)
    except CannotSend as error:
        raise HttpError(409, str(error)) from None
    return 204, None
