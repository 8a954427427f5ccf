"""Starts whose moment comes by the calendar: a date that comes round, an appointment that is near, a score that fades.

For each such start and contact the next moment is a row (Expected), found again when something happens that may move
it, and once a day for everybody, so that changes which made no event are seen. A row that is due becomes an event on
the stream, however late; days on which no worker ran are made up for, since a pass looks from where the last one
ended. What came once does not come again: the row keeps the last moment that came.
"""

import hashlib
from collections.abc import Sequence
from datetime import datetime, timedelta

from django.db import transaction

from bluffside.core.rehearsal.coming import MOVED_BY, Coming, by_time_alone, event_of, expected
from bluffside.core.triggers.appointment_near import AppointmentNear
from bluffside.core.triggers.date_comes import DateComes
from bluffside.core.triggers.score_crossed import ScoreCrossed
from bluffside.server import sql
from bluffside.server.events.stream import Happened, Recorded, listen, record
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.wake import wake
from bluffside.server.workflows.enrolling import document_of
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import DailyPass, Expected, Workflow

BATCH = 1_000
MOVES = frozenset(kind for kinds in MOVED_BY.values() for kind in kinds) | {"contact.added", "contact.changed"}
Dated = DateComes | AppointmentNear | ScoreCrossed


def dated_starts(account: Account) -> list[tuple[Workflow, str, Dated]]:
    """The dated starts of the account's open workflows, each with the key it is known by."""
    workflows = Workflow.objects.filter(account=account, open=True, published__isnull=False)
    return [
        (workflow, key_of(trigger), trigger)
        for workflow in workflows.select_related("published")
        for trigger in by_time_alone(document_of(workflow).starts)
    ]


def key_of(trigger: Dated) -> str:
    """The same for the same start in every version, whatever its filter."""
    # Of the lead score as before there were others: what has come by it is known by this.
    but = {"when", "score"} if isinstance(trigger, ScoreCrossed) and not trigger.score else {"when"}
    return hashlib.sha256(trigger.model_dump_json(exclude=but).encode()).hexdigest()[:16]


def begin(workflow: Workflow) -> None:
    """Called when a workflow is published: forgets starts it no longer has, and has a pass look for those it has."""
    triggers = by_time_alone(document_of(workflow).starts)
    keys = [key_of(trigger) for trigger in triggers]
    Expected.objects.filter(workflow=workflow).exclude(trigger__in=keys).delete()
    if triggers:
        listen(workflow.account, MOVES)
        now = clock.now()
        one, _ = DailyPass.objects.get_or_create(account=workflow.account, defaults={"next_at": now, "covered": now})
        one.next_at = now
        one.save(update_fields=["next_at"])
        wake("expect")


def look_again(account: Account, events: Sequence[Recorded]) -> None:
    """Subscriber: what happened may have moved a contact's moments."""
    moved = {event.contact_id: event.at for event in events if event.contact_id and event.kind in MOVES}
    if not moved:
        return
    starts = dated_starts(account)
    if starts:
        _expect(account, starts, list(moved), {id: at for id, at in moved.items() if id}, clock.now())


def expect_batch(account: Account) -> int:
    """A portion of the daily pass, then the moments that are due; answers how many contacts and moments."""
    return _pass(account) + _come(account)


@transaction.atomic
def _pass(account: Account) -> int:
    now = clock.now()
    row = DailyPass.objects.select_for_update(skip_locked=True).filter(account=account, next_at__lte=now).first()
    if row is None:
        return 0
    starts = dated_starts(account)
    row.began = row.began or now
    people = Contact.objects.filter(account=account, id__gt=row.contact_id).order_by("id")
    ids = list(people.values_list("id", flat=True)[:BATCH]) if starts else []
    if ids:
        _expect(account, starts, ids, {}, row.covered)
        row.contact_id = ids[-1]
    else:
        row.covered, row.began, row.contact_id = row.began, None, 0
        row.next_at = now + timedelta(days=1)
    row.save()
    return max(1, len(ids))


def _expect(
    account: Account,
    starts: Sequence[tuple[Workflow, str, Dated]],
    contact_ids: Sequence[int | None],
    since: dict[int, datetime],
    covered: datetime,
) -> None:
    """Writes each contact's next moments: after what moved them, else after what is covered; never one that came."""
    ids = [id for id in contact_ids if id]
    facts = load_facts(account, ids, frozenset(), clock.now())
    came = {
        (workflow_id, trigger, contact_id, appointment): after
        for workflow_id, trigger, contact_id, appointment, after in Expected.objects.filter(
            account=account, contact_id__in=ids
        ).values_list("workflow_id", "trigger", "contact_id", "appointment", "after")
    }
    rows = []
    found: set[tuple[int, str, int, str]] = set()
    for id in ids:
        if id not in facts:
            continue
        contact, zone = facts[id].contact, facts[id].zone
        for workflow, key, trigger in starts:
            floor = since.get(id, covered)
            for at, one in expected(contact, trigger, floor, zone):
                known = (workflow.id, key, id, one.appointment)
                last = came.get(known)
                if last is not None and at <= last:
                    later = next((n for n, o in expected(contact, trigger, last, zone) if o == one and n > last), None)
                    rows.append((account.id, *known, later, last))
                else:
                    rows.append((account.id, *known, at, last or floor - timedelta(seconds=1)))
                found.add(known)
    sql.insert(
        Expected,
        ("account_id", "workflow_id", "trigger", "contact_id", "appointment", "at", "after"),
        rows,
        on_conflict="ON CONFLICT (workflow_id, trigger, contact_id, appointment) DO UPDATE SET at = excluded.at"
        # What is due and has not come yet is looked at when it comes.
        f" WHERE workflows_expected.at IS NULL OR workflows_expected.at > '{clock.now().isoformat()}'",
    )
    stale = [known for known in came if known not in found]
    if stale:
        # By four columns at once.
        sql.execute(
            "UPDATE workflows_expected e SET at = NULL FROM unnest(%s::bigint[], %s::text[], %s::bigint[], %s::text[])"
            " AS u (workflow, trigger, contact, appointment) WHERE e.workflow_id = u.workflow"
            " AND e.trigger = u.trigger AND e.contact_id = u.contact AND e.appointment = u.appointment"
            " AND e.at > %s",
            [*([list(column) for column in zip(*stale, strict=True)]), clock.now()],
        )


@transaction.atomic
def _come(account: Account) -> int:
    """Moments that are due become events."""
    now = clock.now()
    due = list(
        Expected.objects.select_for_update(skip_locked=True)
        .filter(account=account, at__lte=now)
        .order_by("at", "id")[:BATCH]
    )
    if not due:
        return 0
    triggers = {(workflow.id, key): trigger for workflow, key, trigger in dated_starts(account)}
    facts = load_facts(account, [row.contact_id for row in due], frozenset(), now)
    happened = []
    for row in due:
        trigger, known = triggers.get((row.workflow_id, row.trigger)), facts.get(row.contact_id)
        at, row.at, row.after = row.at or now, None, row.at or now
        if trigger is None or known is None:
            continue
        coming = Coming(str(row.contact_id), trigger, row.appointment)
        if event := event_of(coming, known.contact, at, known.zone):
            happened.append(Happened(event.kind, row.contact_id, dict(event.data)))
        row.at = next((n for n, o in expected(known.contact, trigger, at, known.zone) if o == coming and n > at), None)
    Expected.objects.bulk_update(due, ["at", "after"])
    record(account, happened)
    return len(due)
