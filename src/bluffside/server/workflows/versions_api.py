"""Versions of a workflow: what publishing would do and the deliberate act, the history, two versions side by side."""

from typing import Literal

from django.db import transaction
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError

from bluffside.core.messages.merge import BadTemplate
from bluffside.core.rehearsal.scenarios import play_all
from bluffside.core.workflow.differences import Row, differences, side_by_side
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.program import GoesRoundTooOften
from bluffside.server.events.stream import Cause
from bluffside.server.people.queries import account_facts
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment
from bluffside.server.workflows import enrolling, moving, writing
from bluffside.server.workflows.api import WorkflowOut, workflow_of, workflow_out, written_of
from bluffside.server.workflows.audience import matching
from bluffside.server.workflows.models import Version, Workflow
from bluffside.server.workflows.versions import reading

router = Router(tags=["versions"], auth=InAccount())


class FailingScenario(Schema):
    name: str
    failures: list[str]


class PublishPlan(Schema):
    """`moves`: what moving would mean, by where people stand. `matching`: who matches the starts already and is not
    inside. `failing`: scenarios that do not come true any more, `scenarios` how many there are."""

    revision: int
    version: int
    changes: list[str]
    inside: int
    errors: list[str]
    warnings: list[str]
    starts: str
    moves: list[moving.MoveAtPlace]
    matching: int
    scenarios: int
    failing: list[FailingScenario]


class PublishIn(Schema):
    """`inside`: who is inside finishes the version they came in by, or is moved. `enrol`: who matches already comes in.
    `despite`: although scenarios fail."""

    revision: int
    inside: Literal["finish", "move"] = "finish"
    enrol: bool = False
    despite: bool = False


class Published(Schema):
    workflow: WorkflowOut
    moved: int
    enrolled: int


class VersionRow(Schema):
    """`changes`: against the version before, in sentences."""

    number: int
    published: str
    by: str
    inside: int
    current: bool
    changes: list[str]


class VersionOut(Schema):
    number: int
    document: Document


class Beside(Schema):
    sentences: list[str]
    rows: list[Row]


@router.get("workflows/{int:workflow_id}/publish", response=PublishPlan)
def publish_plan(request: AccountRequest, account: Path[str], workflow_id: int) -> PublishPlan:
    """What publishing would do."""
    workflow = workflow_of(request, workflow_id)
    document = writing.draft_of(workflow)
    checks = writing.all_checks(request.account, document, workflow)
    errors = [one.sentence for one in checks if one.severity == "error"]
    return PublishPlan(
        revision=workflow.revision,
        version=(workflow.published.number if workflow.published else 0) + 1,
        changes=writing.unpublished_changes(workflow),
        inside=workflow.enrolments.filter(ended_at=None).count(),
        errors=errors,
        warnings=[one.sentence for one in checks if one.severity == "warning"],
        starts=" or ".join(start.describe() for start in document.starts),
        moves=[] if errors else moving.preview(workflow, document),
        matching=0 if errors else len(_matching(workflow, document)),
        scenarios=len(document.scenarios),
        failing=[] if errors else _failing(workflow, document),
    )


def _failing(workflow: Workflow, document: Document) -> list[FailingScenario]:
    try:
        verdicts = play_all(document, account_facts(workflow.account))
    except (BadTemplate, GoesRoundTooOften):  # a check says so
        return []
    return [FailingScenario(name=one.scenario, failures=list(one.failures)) for one in verdicts if one.failures]


def _matching(workflow: Workflow, document: Document) -> list[enrolling.Who]:
    inside = set(workflow.enrolments.filter(ended_at=None).values_list("contact_id", "deal"))
    return [one for one in matching(workflow.account, document) if one not in inside]


@router.post("workflows/{int:workflow_id}/publish", response=Published)
def publish(request: AccountRequest, account: Path[str], workflow_id: int, asked: PublishIn) -> Published:
    """Publishes, moves who is inside and enrols who matches, as asked: all of it or nothing."""
    require(request, "workflows")
    try:
        with transaction.atomic():
            return _publish(request, workflow_of(request, workflow_id), asked)
    except writing.CannotPublish as error:
        raise HttpError(422, f"Not published. {error}") from None
    except writing.ChangedElsewhere:
        raise HttpError(409, "Not published: the draft was changed since you looked at it.") from None


def _publish(request: AccountRequest, workflow: Workflow, asked: PublishIn) -> Published:
    failing = [] if asked.despite else _failing(workflow, writing.draft_of(workflow))
    if failing:
        raise HttpError(
            422, f"Not published. The scenario “{failing[0].name}” does not come true. {failing[0].failures[0]}"
        )
    version = writing.publish(workflow, asked.revision, request.person)
    workflow = workflow_of(request, workflow.id)
    moved = moving.move_all(workflow, version, request.person) if asked.inside == "move" else 0
    enrolled = 0
    if asked.enrol:
        who = _matching(workflow, reading(version))
        why = f"matched already, enrolled by {request.person.name}"
        cause, by = Cause(actor=request.person), request.person.name
        ids, deals = [id for id, _ in who], [deal for _, deal in who]
        enrolled = len(enrolling.enrol(workflow, ids, why, cause, by=by, deals=deals).ids)
    return Published(workflow=workflow_out(request, workflow), moved=moved, enrolled=enrolled)


def _version(workflow: Workflow, number: int) -> Version:
    return get_object_or_404(Version, workflow=workflow, number=number)


@router.get("workflows/{int:workflow_id}/versions", response=list[VersionRow])
def versions(request: AccountRequest, account: Path[str], workflow_id: int) -> list[VersionRow]:
    """The newest first."""
    workflow = written_of(request, workflow_id)
    rows: list[VersionRow] = []
    before: Document | None = None
    for version in workflow.versions.select_related("published_by").order_by("number"):
        document = reading(version)
        rows.append(
            VersionRow(
                number=version.number,
                published=moment(version.published_at, request.account.zone),
                by=version.published_by.name if version.published_by else "",
                inside=workflow.enrolments.filter(version=version, ended_at=None).count(),
                current=version.id == workflow.published_id,
                changes=differences(before, document) if before else [],
            )
        )
        before = document
    return rows[::-1]


@router.get("workflows/{int:workflow_id}/versions/{int:number}/beside", response=Beside)
def beside(
    request: AccountRequest, account: Path[str], workflow_id: int, number: int, other: int | None = None
) -> Beside:
    """A version beside another one, or beside the draft."""
    workflow = written_of(request, workflow_id)
    old = reading(_version(workflow, number))
    new = reading(_version(workflow, other)) if other else writing.draft_of(workflow)
    return Beside(sentences=differences(old, new), rows=side_by_side(old, new))


@router.get("workflows/{int:workflow_id}/versions/{int:number}", response=VersionOut)
def one_version(request: AccountRequest, account: Path[str], workflow_id: int, number: int) -> VersionOut:
    """The script as it was published: what the page goes back to, by a change that can be undone."""
    return VersionOut(number=number, document=reading(_version(written_of(request, workflow_id), number)))
