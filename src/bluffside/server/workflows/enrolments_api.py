"""A contact's enrolments and story; taking one out, trying again one that was set aside."""

from dataclasses import asdict
from datetime import datetime
from typing import Literal

from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from pydantic import Field

from bluffside.core.engine.state import STAYS_FINISHED
from bluffside.core.engine.turn import NEVER
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.moving import to_come
from bluffside.server.people.api import contact_of
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.workflows import signals
from bluffside.server.workflows.api import local_moment
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import Enrolment
from bluffside.server.workflows.story import story_of
from bluffside.server.workflows.versions import program_of, reading

router = Router(tags=["enrolments"], auth=InAccount())


class EnrolmentRow(Schema):
    id: int
    contact_id: int
    contact: str
    workflow_id: int
    workflow: str
    version: int
    joined: str
    where: str
    step: str
    until: str
    ended: str
    fault: str
    paused: str
    next: str


class ScoreNow(Schema):
    """A score with what it is made of; `name` is empty for the lead score."""

    name: str
    score: float
    made_of: list[tuple[str, float]]


class LineOf(Schema):
    id: str
    words: str


class StoryItem(Schema):
    """`enrolment` and `step`: whose decision it is, or what decided on the message; so one leads to the other."""

    at: datetime
    local_at: str
    kind: Literal["event", "message", "reply", "reason"]
    sentence: str
    detail: str
    by: str
    workflow: str
    values: dict[str, str]
    enrolment: int
    step: str
    workflow_id: int


class Why(Schema):
    why: str = Field(default="", max_length=180)


def enrolment_row(request: AccountRequest, row: Enrolment, sentences: dict[int, dict[str, str]]) -> EnrolmentRow:
    if row.version_id not in sentences:
        document = reading(row.version)
        sentences[row.version_id] = {step.id: step.describe() for step in walk(document.steps)}
    return EnrolmentRow(
        id=row.id,
        contact_id=row.contact_id,
        contact=row.contact.name,
        workflow_id=row.workflow_id,
        workflow=row.workflow.name,
        version=row.version.number,
        joined=local_moment(request, row.joined_at),
        where=STAYS_FINISHED.capitalize() if row.finished else sentences[row.version_id].get(row.place, ""),
        step=row.place,
        until=""
        if not row.until
        else "somebody has looked"
        if row.until >= NEVER
        else local_moment(request, row.until),
        ended=f"{row.ended}, {local_moment(request, row.ended_at)}" if row.ended_at else "",
        fault=row.fault,
        paused=local_moment(request, row.paused_at) if row.paused_at else "",
        next=_next(row) if row.ended_at is None and not row.finished else "",
    )


def _next(row: Enrolment) -> str:
    """The next line that does something, as things stand: the first that can come which neither waits nor divides."""
    program = program_of(row.version_id)
    coming = (program.step(id) for id in to_come(program, row.place) if id in program.nodes)
    found = next((step for step in coming if not step.waits and not step.divides), None)
    return found.describe() if found else ""


def _enrolment(request: AccountRequest, enrolment_id: int) -> Enrolment:
    rows = Enrolment.objects.select_related("workflow", "contact", "version", "account")
    return get_object_or_404(rows, account=request.account, id=enrolment_id)


@router.get("contacts/{int:contact_id}/score", response=list[ScoreNow])
def score_now(request: AccountRequest, account: Path[str], contact_id: int) -> list[ScoreNow]:
    contact_of(request, contact_id)
    now = clock.now()
    known = load_facts(request.account, [contact_id], frozenset(), now)[contact_id].contact.score
    made_of = {
        name: [(rule, round(points, 1)) for rule, points in known.make_up(now, name) if round(points, 1)]
        for name in sorted({one.score for one in known.earned})
    }
    return [
        ScoreNow(name=name, score=round(known.at(now, name), 1), made_of=parts)
        for name, parts in made_of.items()
        if parts
    ]


@router.get("enrolments/{int:enrolment_id}/lines", response=list[LineOf])
def lines_of(request: AccountRequest, account: Path[str], enrolment_id: int) -> list[LineOf]:
    """The lines of the version that somebody is in, to which they can be moved."""
    document = reading(_enrolment(request, enrolment_id).version)
    return [LineOf(id=step.id, words=step.describe()) for step in walk(document.steps)]


@router.post("enrolments/{int:enrolment_id}/take-out", response={204: None})
def take_out(request: AccountRequest, account: Path[str], enrolment_id: int, given: Why) -> tuple[int, None]:
    require(request, "people")
    signals.take_out(_enrolment(request, enrolment_id), given.why, request.person)
    return 204, None


@router.post("enrolments/{int:enrolment_id}/retry", response={204: None})
def retry(request: AccountRequest, account: Path[str], enrolment_id: int) -> tuple[int, None]:
    require(request, "workflows")
    signals.retry(request.account, [_enrolment(request, enrolment_id).id])
    return 204, None


@router.get("contacts/{int:contact_id}/enrolments", response=list[EnrolmentRow])
def enrolments_of(request: AccountRequest, account: Path[str], contact_id: int) -> list[EnrolmentRow]:
    contact = contact_of(request, contact_id)
    rows = contact.enrolments.select_related("workflow", "version", "contact").order_by("-joined_at", "-id")
    sentences: dict[int, dict[str, str]] = {}
    return [enrolment_row(request, row, sentences) for row in rows[:50]]


@router.get("contacts/{int:contact_id}/story", response=list[StoryItem])
def story(request: AccountRequest, account: Path[str], contact_id: int) -> list[StoryItem]:
    """The contact's timeline, newest first, with the reasons of every decision."""
    contact = contact_of(request, contact_id)
    return [StoryItem(local_at=local_moment(request, item.at), **asdict(item)) for item in story_of(contact)]
