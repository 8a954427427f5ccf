"""Bringing people in by hand: all at once, at a moment, or a few at a time (core.care.trickle).

An intake keeps whom it brings in, in their order. The worker takes one portion in one transaction, so that an intake
goes on where it was after a crash and nobody comes in twice; each portion goes through the entry rules again, since
things change while it runs. What an intake started can be taken back for those to whom nothing has gone out yet.
"""

from collections import Counter
from collections.abc import Iterator, Sequence
from datetime import datetime, time, timedelta
from itertools import islice

from django.db import transaction
from django.db.models import Q, QuerySet

from bluffside.core.care.trickle import Portion, Trickle
from bluffside.core.timing.local import at_time, to_local
from bluffside.server import sql
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message
from bluffside.server.people.queries import account_facts
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake
from bluffside.server.workflows import enrolling, signals
from bluffside.server.workflows.models import Enrolment, Intake, IntakePerson, Workflow

AT_ONCE = 2_000  # that many come in in one batch when there is no trickle
State = Intake.State


class CannotChange(ValueError):
    """Why an intake cannot be paused, stopped or taken back any more, in words."""


def plan(account: Account, people: int, begin: datetime, trickle: Trickle | None) -> list[Portion]:
    """When how many come in. Raises TooSlow."""
    if trickle is None:
        return [Portion(begin, people)] if people else []
    return list(trickle.plan(people, begin, account.zone, account_facts(account).care.holidays))


@transaction.atomic
def start(
    workflow: Workflow,
    contact_ids: Sequence[int],
    by: Person,
    begin: datetime,
    trickle: Trickle | None = None,
    deals: Sequence[str] = (),
) -> Intake:
    """Makes an intake of those who may come in (`deals`: which of theirs each comes for); few who come at once are inside when this
    returns. Raises
    enrolling.CannotEnrol and trickle.TooSlow."""
    now = clock.now()
    begin = max(begin, now)
    found = enrolling.coming(workflow, contact_ids, deals)
    portions = plan(workflow.account, len(found.who), begin, trickle)
    intake = Intake.objects.create(
        account=workflow.account,
        workflow=workflow,
        by=by,
        made_at=now,
        trickle=trickle.model_dump(mode="json") if trickle else None,
        began=begin,
        planned=len(found.who),
        total=len(found.who),
        left_out=dict(found.left_out),
        next_at=portions[0].at if portions else None,
        state=State.RUNNING if portions else State.DONE,
        ended_at=None if portions else now,
    )
    rows = [(workflow.account_id, intake.id, number, *one) for number, one in enumerate(found.who)]
    for some in sql.chunks(rows, 10_000):
        sql.insert(IntakePerson, ("account_id", "intake_id", "number", "contact_id", "deal"), some)
    if portions and portions[0].at <= now and (trickle or intake.total <= AT_ONCE):
        _bring(intake, now)
    else:
        wake("intake")
    return intake


def intake_batch(account: Account) -> int:
    """One portion of the intake that has been due longest; answers how many people were looked at."""
    now = clock.now()
    with transaction.atomic():
        due = Intake.objects.filter(account=account, next_at__lte=now).order_by("next_at", "id")
        intake = due.select_for_update(of=("self",), skip_locked=True).select_related("workflow__published").first()
        return _bring(intake, now) if intake else 0


def _bring(intake: Intake, now: datetime) -> int:
    """The next portion comes in."""
    waiting = IntakePerson.objects.filter(intake=intake, did="").order_by("number")
    people = list(waiting[: _size(intake)])
    by = intake.by.name if intake.by else "somebody who has left"
    try:
        found = enrolling.enrol(
            intake.workflow,
            [one.contact_id for one in people],
            f"by hand, by {by}",
            Cause(actor=intake.by),
            by=by,
            deals=[one.deal for one in people],
        )
    except enrolling.CannotEnrol as error:  # closed, or archived, meanwhile: nobody is lost, it waits
        intake.state, intake.next_at, intake.fault = State.PAUSED, None, str(error)
        intake.save()
        return len(people)
    for one in people:
        one.enrolment_id = found.ids.get((one.contact_id, one.deal))
        one.did = "came" if one.enrolment_id else "not any more"
    IntakePerson.objects.bulk_update(people, ["did", "enrolment_id"], batch_size=AT_ONCE)
    intake.came += len(found.ids)
    intake.left_out = dict(Counter(intake.left_out) + found.left_out)
    intake.portion += 1
    intake.next_at = _next(intake, now, gone=not waiting.exists())
    if intake.next_at is None:
        intake.state, intake.ended_at = State.DONE, now
    elif intake.next_at <= now:
        wake("intake")
    intake.save()
    return len(people)


def _trickle(intake: Intake) -> Trickle | None:
    return Trickle.model_validate(intake.trickle) if intake.trickle else None


def _size(intake: Intake) -> int:
    trickle = _trickle(intake)
    return trickle.count if trickle else AT_ONCE


def _next(intake: Intake, now: datetime, gone: bool) -> datetime | None:
    """When the next portion comes in; None when nobody is left."""
    if gone:
        return None
    trickle = _trickle(intake)
    if trickle is None:
        return now
    calendar = account_facts(intake.account).care.holidays
    portions = trickle.plan(intake.planned, intake.began, intake.account.zone, calendar)
    coming = next(islice(portions, intake.portion, None), None)
    return coming.at if coming else now


def _after_last(intake: Intake) -> datetime:
    """From when on another portion may come in at the pace of its trickle: a minute, an hour, a day after the last."""
    trickle = _trickle(intake)
    if trickle is None or not intake.portion:
        return intake.began
    zone = intake.account.zone
    last = plan(intake.account, intake.planned, intake.began, trickle)[intake.portion - 1].at
    if trickle.each == "day":
        return at_time(to_local(last, zone).date() + timedelta(days=1), time(), zone)
    return last + (timedelta(hours=1) if trickle.each == "hour" else timedelta(minutes=1))


def coming(intake: Intake, until: datetime) -> Iterator[tuple[datetime, int]]:
    """When its next portions come in up to an instant, as things stand, and of how many people each is."""
    at, portion = intake.next_at, intake.portion
    trickle = _trickle(intake)
    calendar = account_facts(intake.account).care.holidays
    plan = trickle.plan(intake.planned, intake.began, intake.account.zone, calendar) if trickle else iter(())
    later = (one.at for one in islice(plan, portion + 1, None))
    while at is not None and at <= until:
        yield at, _size(intake)
        at = next(later, None) if trickle else at


def finishes(intake: Intake) -> datetime | None:
    """When its last portion comes in, as things stand; None once it is over or while it is paused."""
    if intake.next_at is None:
        return None
    left = intake.people.filter(did="").count()
    portions = plan(intake.account, left, intake.next_at, _trickle(intake))
    return portions[-1].at if portions else None


# ---- what people of the team decide


def _locked(intake: Intake, *states: str) -> Intake:
    row = Intake.objects.select_for_update(of=("self",)).select_related("workflow", "account").get(id=intake.id)
    if row.state not in states:
        raise CannotChange(f"It is {row.state.replace('_', ' ')} already.")
    return row


@transaction.atomic
def pause(intake: Intake) -> None:
    """Nobody else comes in until it is resumed. Raises CannotChange."""
    row = _locked(intake, State.RUNNING)
    row.state, row.next_at, row.fault = State.PAUSED, None, ""
    row.save()


@transaction.atomic
def resume(intake: Intake) -> None:
    """Goes on with those who are left, by the same plan from now on. Raises CannotChange."""
    row = _locked(intake, State.PAUSED)
    now = clock.now()
    row.began = max(row.began, now, _after_last(row))
    row.planned, row.portion = row.people.filter(did="").count(), 0
    portions = plan(row.account, row.planned, row.began, _trickle(row))
    row.state, row.fault, row.next_at = State.RUNNING, "", portions[0].at if portions else None
    if not portions:
        row.state, row.ended_at = State.DONE, now
    row.save()
    wake("intake")


@transaction.atomic
def stop(intake: Intake) -> None:
    """Those who are left stay out, for good. Raises CannotChange."""
    row = _locked(intake, State.RUNNING, State.PAUSED)
    row.state, row.next_at, row.ended_at = State.STOPPED, None, clock.now()
    row.save()


def to_take_back(intake: Intake) -> QuerySet[Enrolment]:
    """The enrolments it started to which nothing has gone out yet, and that are still inside."""
    started = intake.people.exclude(enrolment_id=None).values_list("enrolment_id", flat=True)
    untouched = Q(state__in=(Message.State.QUEUED, Message.State.HELD, Message.State.CANCELLED))
    spoken = Message.objects.filter(account=intake.account, enrolment_id__in=started).exclude(untouched)
    inside_now = Enrolment.objects.filter(id__in=started, ended_at=None)
    return inside_now.exclude(id__in=spoken.values("enrolment_id"))


@transaction.atomic
def take_back(intake: Intake, by: Person) -> int:
    """Stops it, and takes out whom it brought in as far as nothing has gone out to them; what waits to go out to them
    does not. Answers how many were taken out. Raises CannotChange."""
    row = _locked(intake, State.RUNNING, State.PAUSED, State.STOPPED, State.DONE)
    now = clock.now()
    row.state, row.next_at, row.ended_at = State.TAKEN_BACK, None, now
    row.save()
    why = f"taken back by {by.name}"
    started = row.people.exclude(enrolment_id=None).values_list("enrolment_id", flat=True)
    waiting = Message.objects.filter(account=row.account, enrolment_id__in=started)
    # Held first, so that none of them goes out while it is decided.
    waits = list(
        waiting.filter(state__in=(Message.State.QUEUED, Message.State.HELD)).select_for_update().order_by("id")
    )
    ids = set(to_take_back(row).values_list("id", flat=True))
    held_back = [message for message in waits if message.enrolment_id in ids]
    for message in held_back:
        message.state, message.reason, message.settled_at = Message.State.CANCELLED, why, now
    Message.objects.bulk_update(held_back, ["state", "reason", "settled_at"], batch_size=1_000)
    enrolments = Enrolment.objects.filter(id__in=ids).select_related("workflow", "account")
    signals.take_out_many(row.account, list(enrolments), why, by)
    return len(ids)
