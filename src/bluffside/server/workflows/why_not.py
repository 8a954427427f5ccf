"""Why did this one not get it? For a contact and a line of a workflow, in sentences, from what was written down.

never came in        which starts did not hold for them, which entry rule kept them out, or what closed the door
inside, before it    where they wait and until when, and whether the line can still come
left before it       why and when
took another lane    the decision, with the values it was taken on
was there            what the line decided: passed over, held, sent; and what became of its message
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import datetime

from bluffside.core.conditions import AllOf, Case, Need
from bluffside.core.engine.turn import NEVER
from bluffside.core.steps import Step
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.entering import Before, why_not
from bluffside.core.workflow.moving import to_come
from bluffside.server.events.models import Event
from bluffside.server.messaging.models import Message
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.words import moment
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import Enrolment, EnrolmentReasons, Workflow
from bluffside.server.workflows.story import became
from bluffside.server.workflows.versions import program_of, published_document


@dataclass(frozen=True, slots=True)
class Because:
    """One sentence of the answer; `at` is when it was so (none: it is so now), `values` what was seen then."""

    sentence: str
    at: datetime | None = None
    values: dict[str, str] = field(default_factory=dict)


def because(contact: Contact, workflow: Workflow, step: str) -> list[Because]:
    """The whole answer, the most telling sentence first. With `step` empty: why they are not, or were never, inside."""
    enrolments = contact.enrolments.filter(workflow=workflow).select_related("version").order_by("-joined_at", "-id")
    newest = enrolments.first()
    if newest is None or (not step and newest.ended_at):
        return list(_outside(contact, workflow, newest))
    if not step:
        return [_inside(newest)]
    return list(_at_line(newest, step))


# ---- who never came in


def _outside(contact: Contact, workflow: Workflow, before: Enrolment | None) -> Iterator[Because]:
    name = contact.name
    if workflow.published is None:
        yield Because(f"“{workflow.name}” is not published, so nobody comes in.")
        return
    if before and before.ended_at:
        yield Because(f"{name} was in it and left: {before.ended}.", before.ended_at)
    else:
        yield Because(f"{name} never came into “{workflow.name}”.")
    refusals = Event.objects.filter(contact_id=contact.id, kind="enrolment.refused", data__workflow=workflow.id)
    for event in refusals.order_by("-id")[:1]:
        yield Because(event.data["why"], event.at)
    document = published_document(workflow.published.id)
    if workflow.archived_at:
        yield Because("It is archived.", workflow.archived_at)
    elif not workflow.open:
        yield Because("It is closed to newcomers.")
    starts = [start.already() for start in document.starts]
    needs = frozenset().union(*(one.all_needs() for one in starts if one), *_needs(document))
    now = clock.now()
    case = Case(load_facts(workflow.account, [contact.id], needs, now)[contact.id], now)
    for start, already in zip(document.starts, starts, strict=True):
        yield from _start(contact, workflow, start.describe(), AllOf(of=(already,)) if already else None, case)
        if start.when and not start.when.holds(case):
            yield Because(f"It only takes who {start.when.describe()}.", values=start.when.seen(case))
    if not document.starts:
        yield Because("Nothing starts it by itself: people come in by hand alone.")
    by_deal = document.entry.each == "deal"  # who left for one deal may come in for another
    refused = why_not(document.entry, case, Before(before.ended_at) if before and not by_deal else None)
    if refused:
        seen = document.entry.who.seen(case) if document.entry.who and refused.startswith("only") else {}
        yield Because(f"The entry rules keep them out now: {refused}.", values=seen)


def _needs(document: Document) -> Iterator[frozenset[Need]]:
    for test in (document.entry.who, *(start.when for start in document.starts)):
        if test:
            yield test.all_needs()


def _start(contact: Contact, workflow: Workflow, words: str, already: AllOf | None, case: Case) -> Iterator[Because]:
    if already is None:
        yield Because(f"It starts {words}. Nothing on record says that this happened for {contact.name}.")
        return
    seen = already.seen(case)
    if not already.holds(case):
        yield Because(f"It starts {words}. That is not so for {contact.name}.", values=seen)
        return
    version = workflow.published
    first = workflow.versions.order_by("number").first()
    tagged = Event.objects.filter(contact_id=contact.id, kind="tag.added").order_by("-id").first()
    if first and tagged and tagged.at < first.published_at:
        yield Because(
            f"It starts {words}. That was so already before the workflow was published, and who matches then comes in "
            "only when somebody says so.",
            tagged.at,
            seen,
        )
    elif version:
        yield Because(f"It starts {words}. That is so now; it starts at the moment it becomes so.", values=seen)


# ---- who was, or is, inside


def _inside(row: Enrolment) -> Because:
    where = _steps(row).get(row.place)
    if row.finished:
        return Because("They have come to the end of the script, and stay only in case its date moves.")
    until = f", until {moment(row.until, row.account.zone)}" if row.until else ""
    if row.until and row.until >= NEVER:
        until = ", until somebody has looked at what they wrote"
    paused = " Somebody has paused them." if row.paused_at else ""
    return Because(f"They are inside: {where.describe() if where else 'about to begin'}{until}.{paused}")


def _steps(row: Enrolment) -> dict[str, Step]:
    return {step.id: step for step in walk(published_document(row.version_id).steps)}


def _at_line(row: Enrolment, step: str) -> Iterator[Because]:
    steps = _steps(row)
    if step not in steps:
        number = row.version.number
        yield Because(f"They came in with version {number}, in which this line is not.", row.joined_at)
        return
    turns = list(EnrolmentReasons.objects.filter(enrolment_id=row.id).order_by("at", "id"))
    here = [(turn.at, reason) for turn in turns for reason in turn.reasons if reason["step"] == step]
    if here:
        yield from _was_there(row, step, here)
        return
    program = program_of(row.version_id)
    if row.fault:
        yield Because(f"Set aside before this line: {row.fault}")
    elif row.ended_at:
        yield Because(f"They left before this line: {row.ended}.", row.ended_at)
    elif not row.place or (step in to_come(program, row.place) and not row.finished):
        yield Because("It has not been the turn of this line yet.")
        yield _inside(row)
    else:
        yield Because("This line does not come for them any more.")
        yield _inside(row)
    yield from _decisions(turns, list(_parents(steps.values(), step)))


def _was_there(row: Enrolment, step: str, here: list[tuple[datetime, dict[str, object]]]) -> Iterator[Because]:
    messages = Message.objects.filter(account_id=row.account_id, enrolment_id=row.id, step=step).order_by("-id")
    for message in messages:
        yield Because(f"{message.channel.capitalize()} “{message.name}” {became(message)}.", message.queued_at)
    for at, reason in reversed(here):
        values = reason["values"]
        yield Because(str(reason["sentence"]), at, values if isinstance(values, dict) else {})


def _parents(steps: Iterable[Step], wanted: str) -> Iterator[str]:
    """The lines with lanes around a line, the nearest first."""
    for step in steps:
        for lane in getattr(step, "lanes", ()):
            if any(one.id == wanted for one in walk(lane.steps)):
                yield step.id


def _decisions(turns: list[EnrolmentReasons], parents: list[str]) -> Iterator[Because]:
    """What was decided where the way to the line divides."""
    for turn in reversed(turns):
        for reason in reversed(turn.reasons):
            if reason["step"] in parents:
                yield Because(reason["sentence"], turn.at, reason["values"])
