"""Who comes in: by hand, by events; and passing on to who is inside what reaches them."""

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache

from django.db import transaction

from bluffside.core.conditions import Case
from bluffside.core.engine.state import DEEPEST
from bluffside.core.events import SUBJECTS
from bluffside.core.events import Event as CoreEvent
from bluffside.core.triggers import Trigger
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.entering import Before, started_by, why_not
from bluffside.core.workflow.files import parse_workflow
from bluffside.server.events.models import Event
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people.queries import load_facts
from bluffside.server.practice import clock
from bluffside.server.practice.models import Person
from bluffside.server.wake import wake
from bluffside.server.workflows.models import Enrolment, Signal, Start, Version, Workflow

BATCH = 2_000


class CannotEnrol(ValueError):
    """Why nobody can come in, in words."""


@dataclass(frozen=True, slots=True)
class Coming:
    """Who would come in, and how many would not, by reason."""

    contact_ids: list[int]
    left_out: Counter[str]


def coming(workflow: Workflow, contact_ids: Sequence[int]) -> Coming:
    """Applies the entry rules of the published version. Raises CannotEnrol."""
    document = document_of(workflow)
    if not workflow.open:
        raise CannotEnrol("It is closed to newcomers.")
    wanted = list(dict.fromkeys(contact_ids))
    last: dict[int, datetime | None] = {}
    rows = Enrolment.objects.filter(workflow=workflow, contact_id__in=wanted).values_list("contact_id", "ended_at")
    for contact_id, ended_at in rows:
        known = last.get(contact_id, ended_at)
        last[contact_id] = None if known is None or ended_at is None else max(known, ended_at)
    now, entry = clock.now(), document.entry
    facts = load_facts(wanted) if entry.who or last else {}
    joining, left_out = [], Counter[str]()
    for contact_id in wanted:
        before = Before(last[contact_id]) if contact_id in last else None
        if before is None and entry.who is None:
            joining.append(contact_id)
            continue
        refused = why_not(entry, Case(facts[contact_id], now), before)
        if refused:
            left_out[refused] += 1
        else:
            joining.append(contact_id)
    return Coming(joining, left_out)


@transaction.atomic
def enrol(workflow: Workflow, contact_ids: Sequence[int], why: str, cause: Cause) -> Coming:
    """Brings contacts in, as far as the entry rules let them. Raises CannotEnrol."""
    found = coming(workflow, contact_ids)
    now = clock.now()
    rows = [
        Enrolment(
            account_id=workflow.account_id,
            workflow=workflow,
            version=workflow.published,
            contact_id=contact_id,
            why=why[:200],
            depth=cause.depth + 1,
            joined_at=now,
            due_at=now,
        )
        for contact_id in found.contact_ids
    ]
    # Two that come at the same instant: the constraint lets one in, the other is as if it came second.
    Enrolment.objects.bulk_create(rows, ignore_conflicts=True, batch_size=BATCH)
    if rows:
        wake("advance")
    data = {"workflow": workflow.id, "name": workflow.name, "why": why}
    record(workflow.account, [Happened("enrolment.started", row.contact_id, data, cause) for row in rows])
    return found


def start_on_events(events: Sequence[Event]) -> None:
    """Subscriber: enrols the contacts of events that published workflows start on. Events of one kind."""
    subject_key = SUBJECTS.get(events[0].kind, "")
    subjects = {str(event.data.get(subject_key, "")) for event in events}
    candidates: dict[tuple[int, str], list[Workflow]] = defaultdict(list)
    rows = Start.objects.filter(
        account_id__in={event.account_id for event in events},
        event_kind=events[0].kind,
        subject__in={*subjects, ""},
        workflow__open=True,
    )
    for start in rows.select_related("workflow__account", "workflow__published"):
        candidates[start.account_id, start.subject].append(start.workflow)
    if not candidates:
        return
    facts = load_facts(event.contact_id for event in events if event.contact_id)
    groups: dict[tuple[int, str, Cause], list[int]] = defaultdict(list)
    workflows: dict[int, Workflow] = {}
    for event in events:
        if event.contact_id not in facts or event.depth >= DEEPEST:
            continue
        by = event.actor.name if event.actor else ""
        core_event, case = CoreEvent(event.kind, event.at, event.data, by), Case(facts[event.contact_id], event.at)
        fitting = candidates[event.account_id, core_event.subject] if core_event.subject else []
        for workflow in {one.id: one for one in (*fitting, *candidates[event.account_id, ""])}.values():
            trigger = started_by(document_of(workflow), core_event, case)
            if trigger:
                workflows[workflow.id] = workflow
                cause = Cause(event.actor, event.enrolment_id, event.depth)
                groups[workflow.id, _why(trigger, core_event), cause].append(event.contact_id)
    for (workflow_id, why, cause), contact_ids in groups.items():
        enrol(workflows[workflow_id], contact_ids, why, cause)


def document_of(workflow: Workflow) -> Document:
    """The published document. Raises CannotEnrol when there is none."""
    if workflow.published is None:
        raise CannotEnrol("It is not published yet.")
    return published_document(workflow.published.id)


@lru_cache(maxsize=500)
def published_document(version_id: int) -> Document:
    """A version never changes, so its document is kept."""
    return parse_workflow(Version.objects.get(id=version_id).document)


def _why(trigger: Trigger, event: CoreEvent) -> str:
    return f"tagged “{event.data['tag']}”" if event.kind == "tag.added" else trigger.describe()


def pass_on_replies(events: Sequence[Event]) -> None:
    """Subscriber: lets the contact's running enrolments hear a reply."""
    inside: dict[int, list[int]] = defaultdict(list)
    rows = Enrolment.objects.filter(contact_id__in=[event.contact_id for event in events], ended_at=None)
    for enrolment_id, contact_id in rows.values_list("id", "contact_id"):
        inside[contact_id].append(enrolment_id)
    _send(
        [
            Signal(
                enrolment_id=enrolment_id,
                event_id=event.id,
                kind="reply",
                text=event.data["text"],
                channel=event.data["channel"],
                at=event.at,
            )
            for event in events
            for enrolment_id in inside[event.contact_id or 0]
        ]
    )


@transaction.atomic
def take_out(enrolment: Enrolment, why: str, by: Person) -> None:
    """A person takes a contact out; nothing more happens in this enrolment."""
    why = why.strip()[:180] or f"taken out by {by.name}"
    data = {"workflow": enrolment.workflow_id, "name": enrolment.workflow.name, "why": why}
    cause = Cause(actor=by, enrolment_id=enrolment.id)
    event = record(enrolment.account, [Happened("enrolment.taken_out", enrolment.contact_id, data, cause)])[0]
    _send([Signal(enrolment=enrolment, event_id=event.id, kind="removed", text=why, at=event.at)])


def _send(signals: list[Signal]) -> None:
    if not signals:
        return
    Signal.objects.bulk_create(signals, ignore_conflicts=True)
    # Waits for a batch that holds the row, and then makes it due again: the signal is not overlooked.
    ids = [signal.enrolment_id for signal in signals]
    Enrolment.objects.filter(id__in=ids, ended_at=None, fault="").update(due_at=clock.now())
    wake("advance")


def retry(enrolment: Enrolment) -> None:
    """Lets an enrolment that was set aside be tried again."""
    with transaction.atomic():
        Enrolment.objects.filter(id=enrolment.id, ended_at=None).exclude(fault="").update(fault="", due_at=clock.now())
        wake("advance")
