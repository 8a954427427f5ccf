"""The engine's batches: due enrolments are advanced by the core, and its decisions carried out.

One batch is one transaction: rows are claimed with SKIP LOCKED, so that any number of workers share the
work; facts are loaded for all of them at once; each is advanced by the pure core; states, messages,
tags, tasks, events and reasons are written with one statement a kind; then all of it commits, or none.
An enrolment that raises is set aside with its reason, and the others go on.
"""

import json
import logging
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from functools import lru_cache
from itertools import zip_longest

from django.db import connection, transaction

from bluffside.core.engine.advance import advance
from bluffside.core.engine.effects import AddNote, AddTag, Effect, MakeTask, RemoveTag, SendMessage
from bluffside.core.engine.signals import Joined, Removed, Replied, TimeReached
from bluffside.core.engine.signals import Signal as CoreSignal
from bluffside.core.engine.state import State
from bluffside.core.engine.turn import Reason
from bluffside.core.facts import Facts
from bluffside.core.workflow.program import Program, compile_workflow
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Task
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.messaging import services as messaging
from bluffside.server.messaging.models import Message
from bluffside.server.people.queries import load_facts
from bluffside.server.people.services import add_tags, remove_tags
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.workflows.enrolling import published_document
from bluffside.server.workflows.models import Decision, Enrolment, Signal

BATCH = 500
log = logging.getLogger("bluffside.engine")


@lru_cache(maxsize=500)
def program_of(version_id: int) -> Program:
    """A version never changes, so its program is kept."""
    return compile_workflow(published_document(version_id))


@dataclass(slots=True)
class Advanced:
    """One enrolment with all that this batch decided about it."""

    row: Enrolment
    state: State
    facts: Facts
    effects: list[Effect] = field(default_factory=list)
    reasons: list[Reason] = field(default_factory=list)

    @property
    def cause(self) -> Cause:
        return Cause(enrolment_id=self.row.id, depth=self.row.depth)

    def key(self, effect: Effect) -> str:
        """What is done once: of this enrolment, this step, this round."""
        return f"e{self.row.id}:{effect.step}:{effect.round}"

    def advance(self, program: Program, signal: CoreSignal, now: datetime) -> None:
        outcome = advance(program, self.state, self.facts, signal, now)
        self.state = outcome.state
        self.effects += outcome.effects
        self.reasons += outcome.reasons
        self.facts = outcome.facts


@transaction.atomic
def advance_batch(limit: int = BATCH) -> int:
    """Advances the enrolments that have been due longest; answers how many were looked at."""
    now = clock.now()
    due = Enrolment.objects.filter(due_at__lte=now).order_by("due_at", "id")
    rows = list(
        due.select_for_update(skip_locked=True, of=("self",)).select_related(
            "account__responsible", "contact", "workflow"
        )[:limit]
    )
    if not rows:
        return 0
    facts = load_facts(row.contact_id for row in rows)
    signals: dict[int, list[Signal]] = defaultdict(list)
    for signal in Signal.objects.filter(enrolment__in=rows).order_by("event_id"):
        signals[signal.enrolment_id].append(signal)
    done = []
    for row in rows:
        one = Advanced(row, _state(row), facts[row.contact_id])
        try:
            _play(one, signals[row.id], now)
        except Exception as error:
            log.exception("enrolment %s of account %s set aside", row.id, row.account.slug)
            _set_aside(row, error)
        else:
            done.append(one)
    _write(done, now)
    Signal.objects.filter(id__in=[s.id for one in done for s in signals[one.row.id]]).delete()
    return len(rows)


def _state(row: Enrolment) -> State:
    at = (row.joined_at, row.place, row.arrived_at, row.until, row.listens, row.round, row.ended)
    return State(*at, depth=row.depth).with_rest(row.rest)


def _play(one: Advanced, signals: Sequence[Signal], now: datetime) -> None:
    """What has reached the enrolment, in the order it happened."""
    program = program_of(one.row.version_id)
    if not one.row.begun:
        one.advance(program, Joined(one.row.why), now)
    for signal in signals:
        while one.state.until and one.state.until <= signal.at:
            one.advance(program, TimeReached(), now)
        one.advance(program, _core_signal(signal), now)
    while one.state.until and one.state.until <= now:
        one.advance(program, TimeReached(), now)


def _core_signal(signal: Signal) -> CoreSignal:
    if signal.kind == "removed":
        return Removed(signal.text)
    return Replied(signal.text, "text" if signal.channel == "text" else "email")


def _set_aside(row: Enrolment, error: Exception) -> None:
    row.fault = f"{type(error).__name__}: {error}"[:2_000]
    row.due_at = None
    row.save(update_fields=["fault", "due_at"])


def _write(done: Sequence[Advanced], now: datetime) -> None:
    _write_states(done, now)
    Decision.objects.bulk_create(
        [
            Decision(enrolment=one.row, step=reason.step, sentence=reason.sentence, values=dict(reason.values), at=now)
            for one in done
            for reason in one.reasons
        ],
        batch_size=2_000,
    )
    messaging.queue(
        [_message(one, effect, now) for one in done for effect in one.effects if isinstance(effect, SendMessage)]
    )
    by_account: dict[Account, list[Advanced]] = defaultdict(list)
    for one in done:
        by_account[one.row.account].append(one)
    for account, ones in by_account.items():
        _write_for(account, ones, now)


def _write_for(account: Account, ones: Sequence[Advanced], now: datetime) -> None:
    """Tags, tasks and events of one account."""
    effects = [(one, effect) for one in ones for effect in one.effects]
    _write_tags(account, ones)
    tasks = [(one, _task(one, e, now)) for one, e in effects if isinstance(e, MakeTask)]
    diary.make(account, [task for _, task in tasks], {task.key: one.cause for one, task in tasks})
    notes = [
        Happened("note.added", one.row.contact_id, {"text": e.text}, one.cause)
        for one, e in effects
        if isinstance(e, AddNote)
    ]
    ended = [
        Happened(
            "enrolment.ended",
            one.row.contact_id,
            {"workflow": one.row.workflow_id, "name": one.row.workflow.name, "why": one.state.ended},
            one.cause,
        )
        for one in ones
        if one.state.ended and not one.row.ended
    ]
    record(account, [*notes, *ended])


def _write_tags(account: Account, ones: Sequence[Advanced]) -> None:
    """In the order each enrolment decided: first everyone's first change of a tag, then everyone's second."""
    changes = [[(one, e) for e in one.effects if isinstance(e, AddTag | RemoveTag)] for one in ones]
    for turn in zip_longest(*changes):
        given = [change for change in turn if change]
        add_tags(account, [(one.row.contact_id, e.tag, one.cause) for one, e in given if isinstance(e, AddTag)])
        remove_tags(account, [(one.row.contact_id, e.tag, one.cause) for one, e in given if isinstance(e, RemoveTag)])


def _message(one: Advanced, effect: SendMessage, now: datetime) -> Message:
    return Message(
        account=one.row.account,
        contact_id=one.row.contact_id,
        key=one.key(effect),
        channel=effect.channel,
        address=one.facts.contact.address(effect.channel),
        name=effect.name,
        subject=effect.subject[:500],
        body=effect.body,
        enrolment_id=one.row.id,
        step=effect.step,
        next_try_at=now,
        queued_at=now,
    )


def _task(one: Advanced, effect: MakeTask, now: datetime) -> Task:
    return Task(
        account=one.row.account,
        contact_id=one.row.contact_id,
        key=one.key(effect),
        kind=effect.task,
        title=effect.title[:300],
        say=effect.say,
        assigned_id=one.row.contact.responsible_id or one.row.account.responsible_id,
        enrolment_id=one.row.id,
        attempts=effect.attempts,
        due_at=now,
        made_at=now,
    )


def _write_states(done: Sequence[Advanced], now: datetime) -> None:
    """One statement for all rows of the batch."""
    states = [(one.row.id, one.state) for one in done]
    with connection.cursor() as cursor:
        cursor.execute(
            """
            UPDATE workflows_enrolment AS e
               SET begun = true, place = s.place, arrived_at = s.arrived, until = s.until, due_at = s.until,
                   listens = s.listens, round = s.round, ended = s.ended, rest = s.rest::jsonb,
                   ended_at = CASE WHEN s.ended <> '' THEN coalesce(e.ended_at, %s) END
              FROM unnest(%s::bigint[], %s::text[], %s::timestamptz[], %s::timestamptz[], %s::boolean[], %s::int[],
                          %s::text[], %s::text[]) AS s (id, place, arrived, until, listens, round, ended, rest)
             WHERE e.id = s.id
            """,
            [
                now,
                [id for id, _ in states],
                [state.place for _, state in states],
                [state.arrived for _, state in states],
                [state.until for _, state in states],
                [state.listens for _, state in states],
                [state.round for _, state in states],
                [state.ended[:200] for _, state in states],
                [json.dumps(state.rest()) for _, state in states],
            ],
        )
