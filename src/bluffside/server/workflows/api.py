"""Workflows: the list, drafts, reading aloud, previews, rehearsals, files."""

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Literal

from django.db.models import Count, Q
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.care.house import Care
from bluffside.core.catalogue import Catalogue, catalogue
from bluffside.core.facts import Account, Facts
from bluffside.core.phone_numbers import example_mobile
from bluffside.core.timing.local import to_instant, to_local
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import Kind, parse_workflow, read_workflow, write_workflow
from bluffside.core.workflow.plain_data import BadFile
from bluffside.core.workflow.reading import Reading, read
from bluffside.core.workflow.scenario import SomeAppointment, SomeContact
from bluffside.server import sql
from bluffside.server.people.api import contact_of
from bluffside.server.people.queries import account_facts, member_facts
from bluffside.server.people.signed import some_appointment_link, some_preferences_link
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.models import Account as AccountRow
from bluffside.server.practice.words import moment
from bluffside.server.workflows import writing
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.merge_fields import merge_fields
from bluffside.server.workflows.models import Sort, Workflow

router = Router(tags=["workflows"], auth=InAccount())
SOMEBODYS = example_mobile("GB")  # for a country of whose numbers none is known to be nobody's


class WorkflowRow(Schema):
    """`replied`: how many people answered one of its messages in the last 30 days."""

    id: int
    name: str
    summary: str
    description: str
    colour: str
    archived: bool
    version: int | None
    open: bool
    inside: int
    came: int
    messages_30_days: int
    replied: int
    errors: int
    warnings: int
    unpublished: bool
    changed_at: datetime
    local_changed: str


class WorkflowOut(Schema):
    """`sort`: a script, or a message of the library, which is a document of one line."""

    id: int
    sort: Sort
    document: Document
    revision: int
    version: int | None
    open: bool
    inside: int
    came: int
    colour: str
    changes: list[str]
    local_changed: str


class DraftIn(Schema):
    document: Document
    revision: int


class Saved(Schema):
    revision: int
    changes: list[str]
    local_changed: str


class Revision(Schema):
    """The newest revision of a draft, and who wrote it when."""

    revision: int
    by: str
    local_changed: str


class NewWorkflow(Schema):
    name: str = Field(min_length=1, max_length=120)


class FileIn(Schema):
    text: str


class MergeFieldOut(Schema):
    path: str
    label: str


class CatalogueOut(Schema):
    """All that a workflow can be written with (see core.catalogue), and what messages can merge."""

    written_with: Catalogue
    merge_fields: list[MergeFieldOut]


class ReadIn(Schema):
    """`workflow_id` is the one being read, which is not its own neighbour."""

    document: Document
    start: datetime | None = None
    workflow_id: int | None = None


class ReadOut(Schema):
    """`longest_days`, `most_touches`, `house`: the account's house rules, where it has them; the last in sentences."""

    start: str
    reading: Reading
    longest_days: int | None
    most_touches: int | None
    house: list[str]


class Invented(Schema):
    first_name: str = "Robin"
    last_name: str = "Vane"
    email: str = "robin@example.com"
    mobile: str | None = None  # none given: one of the account's country that nobody has; "": they have none
    tags: list[str] = []
    appointment: SomeAppointment | None = None


def workflow_of(request: AccountRequest, workflow_id: int) -> Workflow:
    rows = Workflow.objects.select_related("account", "published")
    return get_object_or_404(rows, account=request.account, id=workflow_id)


def written_of(request: AccountRequest, workflow_id: int) -> Workflow:
    """A script, or a message of the library."""
    rows = Workflow.written.select_related("account", "published")
    return get_object_or_404(rows, account=request.account, id=workflow_id)


def start_of(request: AccountRequest, given: datetime | None) -> datetime:
    """A local start as an instant; a moment from now when none is given."""
    if given is None:
        return clock.now().replace(second=0, microsecond=0)
    return given if given.tzinfo else to_instant(given, request.account.zone)


def _read(
    account: AccountRow,
    document: Document,
    joined: datetime,
    own: Workflow | None = None,
    known: writing.CheckFacts | None = None,
) -> Reading:
    care = account_facts(account).care
    return replace(read(document, joined, account.zone, care), checks=writing.all_checks(account, document, own, known))


def local_moment(request: AccountRequest, at: datetime) -> str:
    return moment(at, request.account.zone)


def saved_out(request: AccountRequest, workflow: Workflow) -> Saved:
    changes = writing.unpublished_changes(workflow)
    return Saved(revision=workflow.revision, changes=changes, local_changed=local_moment(request, workflow.changed_at))


def workflow_out(request: AccountRequest, workflow: Workflow) -> WorkflowOut:
    inside = workflow.enrolments.filter(ended_at=None).count()
    return WorkflowOut(
        id=workflow.id,
        sort=Sort(workflow.sort),
        document=writing.draft_of(workflow),
        version=workflow.published.number if workflow.published else None,
        open=workflow.open,
        inside=inside,
        came=workflow.enrolments.count(),
        colour=workflow.colour,
        **saved_out(request, workflow).model_dump(),
    )


@router.get("catalogue", response=CatalogueOut)
def step_catalogue(request: AccountRequest, account: Path[str]) -> CatalogueOut:
    """Everything as the core declares it: what the workflow page is drawn from."""
    fields = [MergeFieldOut(path=path, label=label) for path, label in merge_fields(request.account).items()]
    return CatalogueOut(written_with=catalogue(), merge_fields=fields)


MESSAGES = """
SELECT e.workflow_id, count(*) FROM messaging_message m JOIN workflows_enrolment e ON e.id = m.enrolment_id
 WHERE m.account_id = %s AND m.sent_at >= %s GROUP BY 1
"""
REPLIES = """
SELECT e.workflow_id, count(DISTINCT r.contact_id) FROM messaging_reply r
  JOIN messaging_message m ON m.id = r.message_id JOIN workflows_enrolment e ON e.id = m.enrolment_id
 WHERE r.account_id = %s AND r.received_at >= %s AND NOT r.automatic GROUP BY 1
"""


def _of_month(query: str, account: AccountRow, since: datetime) -> dict[int, int]:
    """By workflow. Messages know their enrolment by number, so that no relation leads from here to there."""
    return dict(sql.rows(query, [account.id, since]))


@router.get("workflows", response=list[WorkflowRow])
def list_workflows(request: AccountRequest, account: Path[str]) -> list[WorkflowRow]:
    now = clock.now()
    month = now - timedelta(days=30)
    messages, replied = _of_month(MESSAGES, request.account, month), _of_month(REPLIES, request.account, month)
    rows = (
        Workflow.objects.filter(account=request.account, sort=Sort.SCRIPT)
        .select_related("published")
        .annotate(came=Count("enrolments"), inside=Count("enrolments", filter=Q(enrolments__ended_at=None)))
        .order_by("name")
    )
    found, known = [], writing.check_facts(request.account)
    for row in rows:
        reading = _read(request.account, writing.draft_of(row), now, row, known)
        found.append(
            WorkflowRow(
                id=row.id,
                name=row.name,
                description=str(row.draft.get("description", "")),
                colour=row.colour,
                archived=row.archived_at is not None,
                replied=replied.get(row.id, 0),
                summary=reading.summary,
                version=row.published.number if row.published else None,
                open=row.open,
                inside=row.inside,
                came=row.came,
                messages_30_days=messages.get(row.id, 0),
                errors=sum(one.severity == "error" for one in reading.checks),
                warnings=sum(one.severity == "warning" for one in reading.checks),
                unpublished=bool(writing.unpublished_changes(row)),
                changed_at=row.changed_at,
                local_changed=local_moment(request, row.changed_at),
            )
        )
    return found


@router.post("workflows", response={201: WorkflowOut})
def new_workflow(request: AccountRequest, account: Path[str], new: NewWorkflow) -> tuple[int, WorkflowOut]:
    require(request, "workflows")
    document = parse_workflow({"name": new.name, "hours": {"start": "09:00", "end": "19:00"}})
    return 201, workflow_out(request, writing.create(request.account, document, request.person))


@router.post("workflows/from-file", response={201: WorkflowOut})
def workflow_from_file(request: AccountRequest, account: Path[str], file: FileIn) -> tuple[int, WorkflowOut]:
    require(request, "workflows")
    try:
        document = read_workflow(file.text)
    except BadFile as error:
        raise HttpError(422, "This is not a workflow. " + "; ".join(error.faults[:5])) from None
    return 201, workflow_out(request, writing.create(request.account, document, request.person))


@router.post("read", response=ReadOut)
def read_aloud(request: AccountRequest, account: Path[str], reading: ReadIn) -> ReadOut:
    """The document's sentences, times, counts and checks, as if joining at `start` (local) in the account's zone."""
    start = start_of(request, reading.start)
    local = to_local(start, request.account.zone).isoformat(timespec="minutes")
    own = written_of(request, reading.workflow_id) if reading.workflow_id else None
    care = account_facts(request.account).care
    return ReadOut(
        start=local,
        reading=_read(request.account, reading.document, start, own),
        longest_days=care.longest_days,
        most_touches=care.most_touches,
        house=_house_rules(care),
    )


def _house_rules(care: Care) -> list[str]:
    quiet = [f"quiet {one.describe()}" for one in care.quiet]
    limits = [one.describe() for one in care.limits]
    pause = [f"a pause of {care.pause.shortest} to {care.pause.longest} seconds"] if care.pause.longest else []
    return [*quiet, *limits, *pause]


@router.get("workflows/{int:workflow_id}", response=WorkflowOut)
def one_workflow(request: AccountRequest, account: Path[str], workflow_id: int) -> WorkflowOut:
    return workflow_out(request, written_of(request, workflow_id))


@router.get("workflows/{int:workflow_id}/revision", response=Revision)
def newest_revision(request: AccountRequest, account: Path[str], workflow_id: int) -> Revision:
    """What an open page asks now and then, to see whether somebody else writes, too."""
    row = written_of(request, workflow_id)
    by = row.changed_by.name if row.changed_by else ""
    return Revision(revision=row.revision, by=by, local_changed=local_moment(request, row.changed_at))


@router.put("workflows/{int:workflow_id}/draft", response=Saved)
def save_draft(request: AccountRequest, account: Path[str], workflow_id: int, draft: DraftIn) -> Saved:
    """409 when somebody else changed the draft since `revision`; then nothing was overwritten."""
    require(request, "workflows")
    try:
        saved = writing.save_draft(written_of(request, workflow_id), draft.document, draft.revision, request.person)
    except writing.ChangedElsewhere:
        raise HttpError(409, "Somebody else changed this draft meanwhile.") from None
    except writing.NoMessage as error:
        raise HttpError(422, str(error)) from None
    return saved_out(request, saved)


@router.get("workflows/{int:workflow_id}/file.{kind}", response={200: str})
def workflow_file(request: AccountRequest, account: Path[str], workflow_id: int, kind: Kind) -> HttpResponse:
    text = write_workflow(writing.draft_of(written_of(request, workflow_id)), kind)
    response = HttpResponse(text, content_type="application/json" if kind == "json" else "application/yaml")
    response["Content-Disposition"] = f"attachment; filename=workflow-{workflow_id}.{kind}"
    return response


def facts_for(request: AccountRequest, contact_id: int | None, invented: Invented) -> Facts:
    if contact_id is not None:
        contact_of(request, contact_id)
        return load_facts(request.account, [contact_id])[contact_id]
    own: Account = account_facts(request.account)
    some = SomeContact(
        first_name=invented.first_name,
        last_name=invented.last_name,
        email=invented.email,
        mobile=example_mobile(request.account.region) or SOMEBODYS if invented.mobile is None else invented.mobile,
        tags=tuple(invented.tags),
        appointments=(invented.appointment,) if invented.appointment else (),
    )
    contact, link = some.facts(clock.now(), own.zone), some_appointment_link(request.account.id)
    contact = contact.changed(
        preferences_link=some_preferences_link(request.account.id),
        appointments=tuple(replace(one, link=link) for one in contact.appointments),
    )
    return Facts(contact, own, member_facts(request.account.responsible))


@router.post("workflows/{int:workflow_id}/door/{state}", response=WorkflowOut)
def open_or_close(
    request: AccountRequest, account: Path[str], workflow_id: int, state: Literal["open", "close"]
) -> WorkflowOut:
    require(request, "workflows")
    workflow = workflow_of(request, workflow_id)
    writing.set_open(workflow, state == "open", request.person)
    return workflow_out(request, workflow)
