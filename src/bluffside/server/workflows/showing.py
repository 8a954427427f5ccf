"""The client's yes: a script or a message shown by a link, with remarks beside each line and "I agree". Nobody signs in, and nothing of any
contact is in it: merge fields stand there by what they are called."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import NamedTuple

from django.conf import settings
from django.db import transaction
from django.db.models import OuterRef, Q, Subquery

from bluffside.core.channel_kinds.wording import Wording, wordings_in
from bluffside.core.letters.document import Letter
from bluffside.core.messages.merge import readable
from bluffside.core.steps.base import Step
from bluffside.core.steps.speaking import Speaking
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.files import parse_workflow, to_data
from bluffside.core.workflow.reading import LineReading, read
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people import signed
from bluffside.server.practice import clock, staff_mail
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.refusals import BadFields
from bluffside.server.workflows import writing
from bluffside.server.workflows.models import Remark, Showing, Workflow
from bluffside.server.workflows.paper import WHO, when

OPEN_FOR = timedelta(days=60)
MOST_SHOWINGS, MOST_REMARKS = 100, 200  # of a document; of one showing
LONGEST_REMARK, LONGEST_NAME = 2_000, 120
TOLD_AGAIN = timedelta(minutes=30)  # whoever is mailed about a remark is not mailed about those that follow at once


@dataclass(frozen=True, slots=True)
class Said:
    """One wording as the client reads it. `number`: which of the message's; `letter`: it is one in lines, shown as it will look."""

    path: str
    number: int
    heading: str
    body: str
    letter: bool


@dataclass(frozen=True, slots=True)
class ShownLine:
    """A line, or the heading of a lane (`id` is empty then: nothing is remarked about it)."""

    id: str
    depth: int
    when: str
    sentence: str
    said: list[Said] = field(default_factory=list)
    files: list[str] = field(default_factory=list)
    remarks: list[Remark] = field(default_factory=list)


def token_of(one: Showing) -> str:
    return signed.sign("s", f"{signed.short(one.account_id)}.{signed.short(one.pk)}")


def address_of(one: Showing) -> str:
    return f"{settings.ADDRESS}/s/{token_of(one)}"


def read_token(token: str) -> tuple[int, int]:
    """The ids of account and showing. Raises BadToken."""
    account, showing = signed.read("s", token, 2)
    return account, showing


def is_open(one: Showing) -> bool:
    return one.ended_at is None and clock.now() < one.shown_at + OPEN_FOR


@transaction.atomic
def show(row: Workflow, client: str, words: str, by: Person) -> Showing:
    """The draft as it stands. Raises BadFields."""
    Workflow.written.select_for_update().get(pk=row.pk)
    if row.showings.count() >= MOST_SHOWINGS:
        raise BadFields({"client": f"It has been shown {MOST_SHOWINGS} times already."})
    document = writing.draft_of(row)
    if not document.steps:
        raise BadFields({"client": "There is nothing to show yet."})
    made = Showing.objects.create(
        account=row.account,
        workflow=row,
        document=to_data(document),
        client=client,
        words=words,
        shown_at=clock.now(),
        shown_by=by,
    )
    _record(made, "showing.made", by)
    return made


@transaction.atomic
def end(one: Showing, by: Person) -> None:
    """The link leads nowhere any more; what was said stays."""
    if one.ended_at is None:
        one.ended_at = clock.now()
        one.save(update_fields=["ended_at"])
        _record(one, "showing.ended", by)


@transaction.atomic
def remark(showing_id: int, line: str, who: str, words: str) -> Remark:
    """By the client. Raises BadFields, by the names of the page's fields."""
    one = (
        Showing.objects.select_for_update(of=("self",))
        .select_related("account", "workflow", "shown_by")
        .get(pk=showing_id)
    )
    who, words = _name(who), words.replace("\0", "").strip()
    if not words:
        raise BadFields({"words": "What would you like to say?"})
    if len(words) > LONGEST_REMARK:
        raise BadFields(
            {"words": f"At most {LONGEST_REMARK:,} letters; nothing was kept yet, and what you wrote stands here."}
        )
    if line and line not in {step.id for step in walk(document_of(one).steps)}:
        raise BadFields({"words": "This line is not in it."})
    if one.remarks.count() >= MOST_REMARKS:
        raise BadFields({"words": "That is more remarks than fit here: please write or ring instead."})
    made = Remark.objects.create(account=one.account, showing=one, line=line, who=who, words=words, made_at=clock.now())
    _record(one, "showing.remarked", None, who=who, line=line)
    _tell(one, f"{who} has a remark on “{one.workflow.name}”", words)
    return made


@transaction.atomic
def agree(showing_id: int, who: str) -> Showing:
    """By the client, once: whoever agreed first stays. Raises BadFields."""
    one = (
        Showing.objects.select_for_update(of=("self",))
        .select_related("account", "workflow", "shown_by")
        .get(pk=showing_id)
    )
    who = _name(who)
    if one.agreed_at is None:
        one.agreed_at, one.agreed_by, one.told_at = clock.now(), who, None
        one.save(update_fields=["agreed_at", "agreed_by", "told_at"])
        _record(one, "showing.agreed", None, who=who)
        _tell(one, f"{who} agrees to “{one.workflow.name}”", "It is kept with the name and the time.")
    return one


@transaction.atomic
def answer(one: Remark, words: str, by: Person) -> None:
    """What the client then reads below the remark."""
    one.answer, one.answered_at, one.answered_by = words, clock.now(), by
    one.save(update_fields=["answer", "answered_at", "answered_by"])
    _record(one.showing, "showing.answered", by, line=one.line)


def _name(who: str) -> str:
    who = " ".join(who.replace("\0", "").split())
    if not who:
        raise BadFields({"who": "Please say who you are."})
    if len(who) > LONGEST_NAME:
        raise BadFields({"who": f"At most {LONGEST_NAME} letters."})
    return who


def _record(one: Showing, kind: str, by: Person | None, **more: str) -> None:
    about = {"workflow": one.workflow.name, "showing": one.pk, "client": one.client, **more}
    record(one.account, [Happened(kind, None, about, Cause(actor=by))])


def _tell(one: Showing, subject: str, words: str) -> None:
    now = clock.now()
    if one.shown_by is None or (one.told_at and now < one.told_at + TOLD_AGAIN):
        return
    one.told_at = now
    one.save(update_fields=["told_at"])
    where = "messages" if one.workflow.sort == "message" else "workflows"
    page = f"{settings.ADDRESS}/{one.account.slug}/{where}/{one.workflow_id}?ask=show"
    staff_mail.write(one.shown_by.email, subject, f"{words}\n\n{one.account.name}: {page}")


class Standing(NamedTuple):
    """How it stands with the client about one document, by what it was shown last; `remark_by`: whose remark waits for an answer."""

    showing: Showing
    remark_by: str


def standings(account: Account, workflow_id: int | None = None) -> dict[int, Standing]:
    """By document, those that were shown, and whose link leads somewhere or that were agreed to."""
    rows = Showing.objects.filter(account=account).filter(Q(ended_at=None) | Q(agreed_at__isnull=False))
    if workflow_id is not None:
        rows = rows.filter(workflow=workflow_id)
    waits = (
        Remark.objects.filter(showing__workflow=OuterRef("workflow"), answered_at=None).order_by("id").values("who")[:1]
    )
    last = rows.order_by("workflow_id", "-id").distinct("workflow_id").annotate(remark_by=Subquery(waits))
    return {one.workflow_id: Standing(one, one.remark_by or "") for one in last}


# ---- as the client reads it


def document_of(one: Showing) -> Document:
    return parse_workflow(one.document)


def lines_of(one: Showing, document: Document, now: datetime) -> list[ShownLine]:
    """As if somebody joined now."""
    readings = {line.step: line for line in read(document, now, one.account.zone).lines}
    remarks: dict[str, list[Remark]] = {}
    for each in one.remarks.order_by("id"):
        remarks.setdefault(each.line, []).append(each)
    return list(_lines(document.steps, 0, readings, remarks))


def _lines(
    steps: Sequence[Step], depth: int, readings: dict[str, LineReading], remarks: dict[str, list[Remark]]
) -> Iterator[ShownLine]:
    for step in steps:
        reading = readings[step.id]
        said = [one for field, wording in wordings_in(step) for one in _said(field, wording)]
        files = [one.name for _, wording in wordings_in(step) for one in wording.files]
        yield ShownLine(
            step.id, depth, when(reading), WHO[step.who] + reading.sentence, said, files, remarks.get(step.id, [])
        )
        for lane in step.lanes_below():
            yield ShownLine("", depth + 1, "", lane.heading())
            yield from _lines(lane.steps, depth + 1, readings, remarks)


def _said(field: str, wording: Wording) -> Iterator[Said]:
    for number in range(len(wording.others) + 1):
        heading, body, letter = wording.in_turn(number)
        yield Said(field, number, readable(heading), readable(body), letter is not None)


def letter_of(one: Showing, line: str, field: str, number: int) -> Letter | None:
    """The letter that a line says in its wording of that number."""
    step = next((each for each in walk(document_of(one).steps) if each.id == line), None)
    wording = dict(wordings_in(step)).get(field) if isinstance(step, Speaking) else None
    return wording.in_turn(number)[2] if wording and number <= len(wording.others) else None
