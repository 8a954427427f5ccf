"""Carrying out what a batch decided: each sort of thing by one statement, in the batch's transaction.

    the enrolments' states and reasons             workflows
    what changed about contacts                    people, pipeline, diary: the difference of the facts
    messages, tasks, notices, requests             messaging, diary, hooks, each known by its key
    the events of all that                         the stream, from where workflows start, go on and stop

A new effect that changes facts and tells of it by an event needs nothing here. One that asks for something new to be
done is a case in `_sorted`.
"""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from itertools import chain
from typing import Any

from bluffside.core.engine import effects as do
from bluffside.core.engine.booking_effects import FetchPerson
from bluffside.core.engine.reply_effects import TakeReply
from bluffside.core.facts import Contact, Facts
from bluffside.core.timing.local import to_local
from bluffside.server import sql
from bluffside.server.diary import services as diary
from bluffside.server.diary.facts import write_appointments
from bluffside.server.diary.told import Telling
from bluffside.server.events.counting import touch
from bluffside.server.events.set_going import CalledOff
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.hooks import sending as hooks
from bluffside.server.hooks.services import request_to
from bluffside.server.messaging import correspondence, outbox
from bluffside.server.people.changes import write_changes
from bluffside.server.people.models import Contact as ContactRow
from bluffside.server.people.values import plain_score
from bluffside.server.pipeline.facts import write_deals
from bluffside.server.practice.models import Account
from bluffside.server.practice.team import people_of, standing_in
from bluffside.server.workflows.batch import Advanced, Batch
from bluffside.server.workflows.models import EnrolmentReasons


@dataclass(slots=True)
class _Sorted:
    """What is to be done, by sort."""

    messages: list[outbox.Draft] = field(default_factory=list)
    tasks: list[diary.NewTask] = field(default_factory=list)
    notices: list[diary.NewNotice] = field(default_factory=list)
    calls: list[hooks.NewCall] = field(default_factory=list)
    owners: dict[int, int] = field(default_factory=dict)  # contact to person
    happened: list[Happened] = field(default_factory=list)
    causes: dict[str, Cause] = field(default_factory=dict)  # of tasks, by key
    called_off: dict[int, list[CalledOff]] = field(default_factory=lambda: defaultdict(list))  # by enrolment


def carry_out(batch: Batch, known: Mapping[int, Facts]) -> None:
    account, now = batch.account, batch.now
    _write_states(batch.done, now)
    _write_turns(account, batch.done, now)
    write_changes(account, batch.changed)
    write_deals(account, batch.changed)
    write_appointments(batch.changed)
    team = _Team(account, batch.done, now)
    todo = _sorted(batch, known, team)
    outbox.queue(account, todo.messages)
    diary.tell(account, todo.notices)
    hooks.queue(account, todo.calls)
    replies = [effect for one in batch.done for effect in one.effects if isinstance(effect, TakeReply)]
    correspondence.need_person(account, [one.reply for one in replies if one.needs_person])
    for by in ("workflow", "assistant"):
        answered = [one.reply for one in replies if not one.needs_person and one.by == by]
        correspondence.answered_by(account, by, answered)
    for contact_id, person_id in todo.owners.items():
        ContactRow.objects.filter(id=contact_id).update(responsible_id=person_id)
    todo.happened += diary.make(account, todo.tasks, todo.causes)
    if called_off := list(chain.from_iterable(todo.called_off.values())):
        todo.happened += outbox.call_off(account, called_off)
        todo.happened += diary.call_off(account, called_off)
    record(account, todo.happened)
    touch(account.id, enrolments=[one.id for one in batch.done])


def _sorted(batch: Batch, known: Mapping[int, Facts], team: "_Team") -> _Sorted:
    todo = _Sorted()
    for one in batch.done:
        contact = known[one.contact_id].contact
        for effect in one.effects:
            _sort(todo, one, effect, contact, team, batch)
        cause = one.cause
        for event in one.events:
            data = dict(event.data)
            if event.kind == "score.changed":
                data["made_of"] = plain_score(contact.score)  # so that what it was made of on a day can be told
            todo.happened.append(Happened(event.kind, one.contact_id, data, cause))
        if one.state.ended and not one.was_ended:
            data = {"workflow": one.workflow_id, "name": one.workflow, "why": one.state.ended}
            todo.happened.append(Happened("enrolment.ended", one.contact_id, data, cause))
    return todo


def _sort(todo: _Sorted, one: Advanced, effect: do.Effect, contact: Contact, team: "_Team", batch: Batch) -> None:
    key = one.key(effect)
    for off in todo.called_off.get(one.id, ()):
        off.but.append(key)  # set going after it
    match effect:
        case do.CallOff():
            todo.called_off[one.id].append(CalledOff(one.contact_id, one.id, effect.why, one.cause, effect.lines))
        case do.SendMessage():
            todo.messages.append(
                outbox.Draft(
                    one.contact_id,
                    key,
                    effect.channel,
                    effect.purpose,
                    contact.address(effect.channel),
                    effect.body,
                    effect.name,
                    effect.subject,
                    effect.sender,
                    one.id,
                    effect.step,
                    effect.held,
                    letter=effect.letter,
                    head=effect.head,
                    wording=effect.wording,
                    later=timedelta(seconds=effect.later),
                )  # fmt: skip
            )
        case do.MakeTask():
            assigned = next(iter(team.who(effect.assignee, one, todo)), None)
            due = effect.due or batch.now
            task = diary.NewTask(one.contact_id, key, effect.task, effect.title, effect.say, effect.last, assigned, one.id,
                                 effect.step, effect.attempts, due)  # fmt: skip
            todo.tasks.append(task)
            todo.causes[key] = one.cause
            if due_notice := diary.due_notice(task, team.telling):
                todo.notices.append(due_notice)
        case do.Notify():
            app, mail = effect.by != "email", effect.by != "app"
            todo.notices += [
                diary.NewNotice(one.contact_id, key, person, effect.text[:2_000], *told)
                for person in team.who(effect.assignee, one, todo)
                if (told := team.telling.of(person, "workflow", app, mail))
            ]
        case do.SetOwner():
            for person in team.named(effect.assignee, one, todo)[:1]:
                todo.owners[one.contact_id] = person
        case FetchPerson():
            said = f"The booking assistant asks for somebody: {effect.why}."
            noted = f"{said} {effect.summary}".strip()[:2_000]
            todo.happened.append(Happened("note.added", one.contact_id, {"text": noted}, one.cause))
            todo.notices += [
                diary.NewNotice(
                    one.contact_id, f"{key}:person", person, said[:2_000], *told, f"replies/{one.contact_id}"
                )
                for person in team.who(do.Assignee(), one, todo)
                if (told := team.telling.of(person, "assistant"))
            ]
        case do.AddNote():
            todo.happened.append(Happened("note.added", one.contact_id, {"text": effect.text}, one.cause))
        case do.CallWebhook() | do.Asking():
            todo.calls.append(_call(one, effect, contact, batch.account))
        case do.HandOver():
            data = {"workflow": effect.workflow, "from": one.workflow, **effect.about}
            todo.happened.append(Happened("workflow.handed_over", one.contact_id, data, one.cause))
        case do.StopOthers():
            stopped: dict[str, Any] = {"workflows": list(effect.workflows), "from": one.workflow}
            if effect.here:
                stopped["here"] = one.workflow_id
            todo.happened.append(Happened("others.stopped", one.contact_id, stopped, one.cause))


def _call(one: Advanced, effect: do.CallWebhook | do.Asking, contact: Contact, account: Account) -> hooks.NewCall:
    key = one.key(effect)
    if isinstance(effect, do.Asking):
        service, body = effect.asks()
        return request_to(service, body, contact, account, key, one.id)
    return hooks.NewCall(
        one.contact_id, one.id, key, effect.method, effect.url, effect.body, effect.query, effect.headers
    )


class _Team:
    """Who gets what: members by name, or whoever is responsible; while they are away, who stands in. Asked for only where
    somebody is to get something."""

    def __init__(self, account: Account, done: Sequence[Advanced], now: datetime) -> None:
        self.account = account
        gets = [e for one in done for e in one.effects if isinstance(e, do.MakeTask | do.Notify | do.SetOwner)]
        names = {name for effect in gets for name in effect.assignee.members}
        fetched = any(isinstance(e, FetchPerson) for one in done for e in one.effects)
        people = list(people_of(account)) if gets or fetched else []
        self.by_name = {one.name: one.id for one in people if one.name in names}
        self.telling = Telling(people, account.zone, now)
        self.instead = standing_in(account, people, to_local(now, account.zone).date())

    def who(self, assignee: do.Assignee, one: Advanced, todo: _Sorted) -> list[int]:
        """Ids of persons: those named, or who stands in for them today; nobody twice."""
        return list(dict.fromkeys(self.instead.get(id, id) for id in self.named(assignee, one, todo)))

    def named(self, assignee: do.Assignee, one: Advanced, todo: _Sorted) -> list[int]:
        """Ids of persons; of whoever is responsible when those named are not there any more."""
        named = [self.by_name[name] for name in assignee.members if name in self.by_name]
        if named:
            return named
        responsible = todo.owners.get(one.contact_id) or one.responsible_id or self.account.responsible_id
        return [responsible] if responsible else []


def _write_states(done: Sequence[Advanced], now: datetime) -> None:
    if not done:
        return
    states = [one.state for one in done]
    # One statement for a thousand rows, each with values of its own: a CASE a column a row costs five times as much.
    sql.execute(
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
            [one.id for one in done],
            [state.place for state in states],
            [state.arrived for state in states],
            [state.until for state in states],
            [state.listens for state in states],
            [state.round for state in states],
            [state.ended[:200] for state in states],
            [sql.to_json(state.rest()) for state in states],
        ],
    )


def _write_turns(account: Account, done: Sequence[Advanced], now: datetime) -> None:
    rows = [
        (
            one.id,
            "\n".join(dict.fromkeys(reason.step for reason in one.reasons if reason.step)),
            sql.to_json([{"step": r.step, "sentence": r.sentence, "values": dict(r.values)} for r in one.reasons]),
        )
        for one in done
        if one.reasons
    ]
    if rows:
        # Lists in one column do not unnest as sql.insert sends them.
        sql.execute(
            f"INSERT INTO {EnrolmentReasons._meta.db_table} (account_id, enrolment_id, at, steps, reasons)"  # noqa: S608  # ours
            " SELECT %s, u.id, %s, string_to_array(u.steps, E'\\n'), u.reasons::jsonb"
            " FROM unnest(%s::bigint[], %s::text[], %s::text[]) AS u (id, steps, reasons)",
            [account.id, now, *([list(column) for column in zip(*rows, strict=True)])],
        )
