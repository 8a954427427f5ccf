"""Who is inside: enrolling, watching where people are, taking out; a contact's enrolments and story."""

from dataclasses import asdict
from datetime import datetime
from typing import Literal

from django.db.models import Count, Func
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.timing.words import moment
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.files import parse_workflow
from bluffside.core.workflow.timeline import time_line
from bluffside.server.events.stream import Cause
from bluffside.server.people.api import Chosen, chosen, contact_of
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.workflows import enrolling, inside
from bluffside.server.workflows.api import local_moment, workflow_of
from bluffside.server.workflows.models import Enrolment, Turn, Workflow
from bluffside.server.workflows.story import story_of

router = Router(tags=["enrolments"], auth=InAccount())


class Enrolling(Schema):
    who: Chosen


class EnrolPlan(Schema):
    """Who would come in, who would not and why, and who of them some messages cannot reach."""

    joining: int
    left_out: dict[str, int]
    no_mobile: int
    no_email: int
    first_message: str
    problem: str


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


class LineCount(Schema):
    step: str
    here: int
    passed: int


class Watch(Schema):
    lines: list[LineCount]
    enrolments: list[EnrolmentRow]
    inside: int
    ended: int
    set_aside: int


class StoryItem(Schema):
    at: datetime
    local_at: str
    kind: Literal["event", "message", "reply", "reason"]
    sentence: str
    detail: str
    by: str
    workflow: str
    values: dict[str, str]


class Why(Schema):
    why: str = Field(default="", max_length=180)


def _plan(workflow: Workflow, contact_ids: list[int]) -> EnrolPlan:
    try:
        found = enrolling.coming(workflow, contact_ids)
    except enrolling.CannotEnrol as error:
        return EnrolPlan(joining=0, left_out={}, no_mobile=0, no_email=0, first_message="", problem=str(error))
    document = parse_workflow(workflow.published.document if workflow.published else {})
    speaking = {step.id: step.speaks for step in walk(document.steps) if step.speaks in ("text", "email")}
    joining = workflow.account.contacts.filter(id__in=found.contact_ids)
    times = time_line(document, clock.now(), workflow.account.zone)
    first = min((line.acts.earliest for id, line in times.lines.items() if line.acts and id in speaking), default=None)
    return EnrolPlan(
        joining=len(found.contact_ids),
        left_out=dict(found.left_out),
        no_mobile=joining.filter(mobile="").count() if "text" in speaking.values() else 0,
        no_email=joining.filter(email="").count() if "email" in speaking.values() else 0,
        first_message=moment(first, workflow.account.zone) if first else "",
        problem="",
    )


@router.post("workflows/{int:workflow_id}/enrol/plan", response=EnrolPlan)
def enrol_plan(request: AccountRequest, account: Path[str], workflow_id: int, enrolling: Enrolling) -> EnrolPlan:
    return _plan(workflow_of(request, workflow_id), chosen(request, enrolling.who))


@router.post("workflows/{int:workflow_id}/enrol/now", response=EnrolPlan)
def enrol(request: AccountRequest, account: Path[str], workflow_id: int, given: Enrolling) -> EnrolPlan:
    require(request, "people")
    workflow = workflow_of(request, workflow_id)
    contact_ids = chosen(request, given.who)
    plan = _plan(workflow, contact_ids)
    if plan.problem:
        raise HttpError(409, plan.problem)
    enrolling.enrol(
        workflow,
        contact_ids,
        f"by hand, by {request.person.name}",
        Cause(actor=request.person),
        by=request.person.name,
    )
    return plan


def _enrolment_row(request: AccountRequest, row: Enrolment, sentences: dict[int, dict[str, str]]) -> EnrolmentRow:
    if row.version_id not in sentences:
        document = parse_workflow(row.version.document)
        sentences[row.version_id] = {step.id: step.describe() for step in walk(document.steps)}
    return EnrolmentRow(
        id=row.id,
        contact_id=row.contact_id,
        contact=row.contact.name,
        workflow_id=row.workflow_id,
        workflow=row.workflow.name,
        version=row.version.number,
        joined=local_moment(request, row.joined_at),
        where=sentences[row.version_id].get(row.place, ""),
        step=row.place,
        until=local_moment(request, row.until) if row.until else "",
        ended=f"{row.ended}, {local_moment(request, row.ended_at)}" if row.ended_at else "",
        fault=row.fault,
    )


@router.get("workflows/{int:workflow_id}/watch", response=Watch)
def watch(request: AccountRequest, account: Path[str], workflow_id: int, step: str = "") -> Watch:
    """Where people are. With `step`, the enrolments that stand at that line; else the newest hundred."""
    workflow = workflow_of(request, workflow_id)
    enrolments = workflow.enrolments
    here = dict(enrolments.filter(ended_at=None).exclude(place="").values_list("place").annotate(count=Count("id")))
    been_at = Turn.objects.filter(enrolment__in=enrolments.all()).annotate(step=Func("steps", function="unnest"))
    passed = dict(been_at.values_list("step").annotate(count=Count("enrolment", distinct=True)))
    rows = enrolments.select_related("contact", "workflow", "version").order_by("-joined_at", "-id")
    if step:
        rows = rows.filter(place=step, ended_at=None)
    sentences: dict[int, dict[str, str]] = {}
    return Watch(
        lines=[
            LineCount(step=id, here=here.get(id, 0), passed=passed.get(id, 0) - here.get(id, 0))
            for id in sorted(here.keys() | passed.keys())
        ],
        enrolments=[_enrolment_row(request, row, sentences) for row in rows[:100]],
        inside=enrolments.filter(ended_at=None).count(),
        ended=enrolments.exclude(ended_at=None).count(),
        set_aside=enrolments.exclude(fault="").count(),
    )


def _enrolment(request: AccountRequest, enrolment_id: int) -> Enrolment:
    rows = Enrolment.objects.select_related("workflow", "contact", "version", "account")
    return get_object_or_404(rows, account=request.account, id=enrolment_id)


@router.post("enrolments/{int:enrolment_id}/take-out", response={204: None})
def take_out(request: AccountRequest, account: Path[str], enrolment_id: int, given: Why) -> tuple[int, None]:
    require(request, "people")
    inside.take_out(_enrolment(request, enrolment_id), given.why, request.person)
    return 204, None


@router.post("enrolments/{int:enrolment_id}/retry", response={204: None})
def retry(request: AccountRequest, account: Path[str], enrolment_id: int) -> tuple[int, None]:
    require(request, "workflows")
    inside.retry(request.account, [_enrolment(request, enrolment_id).id])
    return 204, None


@router.get("contacts/{int:contact_id}/enrolments", response=list[EnrolmentRow])
def enrolments_of(request: AccountRequest, account: Path[str], contact_id: int) -> list[EnrolmentRow]:
    contact = contact_of(request, contact_id)
    rows = contact.enrolments.select_related("workflow", "version", "contact").order_by("-joined_at", "-id")
    sentences: dict[int, dict[str, str]] = {}
    return [_enrolment_row(request, row, sentences) for row in rows[:50]]


@router.get("contacts/{int:contact_id}/story", response=list[StoryItem])
def story(request: AccountRequest, account: Path[str], contact_id: int) -> list[StoryItem]:
    """The contact's timeline, newest first, with the reasons of every decision."""
    contact = contact_of(request, contact_id)
    return [StoryItem(local_at=local_moment(request, item.at), **asdict(item)) for item in story_of(contact)]
