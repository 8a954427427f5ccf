"""Messages of the library: the ledger, made, kept from a line, named, labelled, published, put away."""

from datetime import datetime, timedelta
from typing import Annotated

from django.db.models import Count, OuterRef, Subquery
from django.db.models.fields.json import KT
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field, StringConstraints

from bluffside.core.channel_kinds import CHANNEL_KINDS
from bluffside.core.steps import KINDS, AnyStep
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Purpose
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import to_data
from bluffside.core.workflow.library import message_of
from bluffside.server.events.models import Event
from bluffside.server.messaging.models import Message
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.models import Account
from bluffside.server.practice.naming import NotAName
from bluffside.server.practice.refusals import BadFields
from bluffside.server.workflows import library, publishing_messages, showing, writing
from bluffside.server.workflows.api import WorkflowOut, local_moment, workflow_out
from bluffside.server.workflows.models import Sort, Workflow
from bluffside.server.workflows.outcomes import outcomes
from bluffside.server.workflows.showing_api import Standing, standing_out
from bluffside.wordings import wordings

router = Router(tags=["messages"], auth=InAccount())
Label = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40)]


class MessageFigures(Schema):
    """Of the last 30 days: handed to carriers; of these, how many of those with a link were followed by a person, how many were answered; and how
    many people opted out of a channel while it was the last they had got by it."""

    sent: int = 0
    with_link: int = 0
    clicked: int = 0
    answered: int = 0
    opted_out: int = 0


class MessageRow(Schema):
    """`words`: by channel, what it says in its first wording; `said_by`: workflows, with how many have it still to come."""

    id: int
    name: str
    channels: list[str]
    answered_by: list[str]
    purpose: Purpose
    labels: list[str]
    words: dict[str, str]
    wordings: int
    said_by: list[library.SaidBy]
    figures: MessageFigures
    version: int | None
    unpublished: bool
    errors: int
    warnings: int
    archived: bool
    changed_at: datetime
    local_changed: str
    shown: Standing | None


class NewMessage(Schema):
    """`kind`: of the line that says it: a channel's, or reach; or `wording`: that of ours which it begins from."""

    name: str = Field(max_length=120)
    kind: str = Field(default="email", max_length=20)
    wording: str = Field(default="", max_length=60)


class KeepIn(Schema):
    name: str = Field(max_length=120)
    line: AnyStep


class MessageIn(Schema):
    name: str = Field(max_length=120)
    labels: list[Label] = Field(max_length=20)
    archived: bool = False


class WordingOut(Schema):
    """Of those that ship: by channel, what it says; `subject` where it is an email."""

    key: str
    trade: str
    occasion: str
    name: str
    subject: str
    words: dict[str, str]


class ObjectionOut(Schema):
    workflow: str
    why: str


class MessagePlan(Schema):
    """What publishing would do: how many are still to read it, and what objects."""

    revision: int
    version: int
    changes: list[str]
    said_by: list[library.SaidBy]
    errors: list[str]
    warnings: list[str]
    objections: list[ObjectionOut]


class MessagePublish(Schema):
    revision: int


class SayableOut(Schema):
    """A message that lines may say, as a line would."""

    id: int
    name: str
    line: AnyStep
    labels: list[str]


def message_row(request: AccountRequest, message_id: int) -> Workflow:
    rows = Workflow.written.filter(sort=Sort.MESSAGE).select_related("account", "published")
    return get_object_or_404(rows, account=request.account, id=message_id)


def figures(account: Account) -> dict[str, MessageFigures]:
    """By the name of the message."""
    since = clock.now() - timedelta(days=30)
    sent = Message.objects.filter(account=account, sent_at__gte=since)
    found = {name: MessageFigures(**counts._asdict()) for name, counts in outcomes(sent, "name").items()}
    before = Message.objects.filter(
        contact=OuterRef("contact_id"), channel=OuterRef("channel"), sent_at__lte=OuterRef("at")
    )
    left = (
        Event.objects.filter(account=account, kind="consent.withdrawn", at__gte=since, actor=None)
        .annotate(channel=KT("data__channel"))
        .annotate(last=Subquery(before.order_by("-sent_at").values("name")[:1]))
        .values_list("last")
        .annotate(people=Count("contact_id", distinct=True))
        .order_by()
    )
    for name, people in left:
        if name in found:
            found[name].opted_out = people
    return found


def _out(
    request: AccountRequest,
    row: Workflow,
    said: dict[str, list[library.SaidBy]],
    counts: dict[str, MessageFigures],
    known: writing.CheckFacts,
    shown: dict[int, showing.Standing],
) -> MessageRow:
    document = writing.draft_of(row)
    line = message_of(document)
    versions = line.versions() if line else {}
    checks = writing.all_checks(request.account, document, row, known)
    return MessageRow(
        id=row.id,
        name=row.name,
        channels=list(versions),
        answered_by=[channel for channel in versions if CHANNEL_KINDS[channel].answered],
        purpose=line.purpose if line else "marketing",
        labels=row.labels,
        words={channel: one.body[:400] for channel, one in versions.items()},
        wordings=max((len(one.others) + 1 for one in versions.values()), default=0),
        said_by=said.get(row.name, []),
        figures=counts.get(row.name, MessageFigures()),
        version=row.published.number if row.published else None,
        unpublished=row.published is not None and bool(writing.unpublished_changes(row)),
        errors=sum(one.severity == "error" for one in checks),
        warnings=sum(one.severity == "warning" for one in checks),
        archived=row.archived_at is not None,
        changed_at=row.changed_at,
        local_changed=local_moment(request, row.changed_at),
        shown=standing_out(request, shown[row.id], to_data(document)) if row.id in shown else None,
    )


def _rows(request: AccountRequest, rows: list[Workflow]) -> list[MessageRow]:
    said, counts = library.said_where(request.account), figures(request.account)
    known, shown = writing.check_facts(request.account), showing.standings(request.account)
    return [_out(request, row, said, counts, known, shown) for row in rows]


@router.get("messages", response=list[MessageRow])
def list_messages(request: AccountRequest, account: Path[str]) -> list[MessageRow]:
    rows = Workflow.written.filter(account=request.account, sort=Sort.MESSAGE).select_related("published", "account")
    return _rows(request, list(rows.order_by("name")))


@router.get("messages/sayable", response=list[SayableOut])
def sayable(request: AccountRequest, account: Path[str]) -> list[SayableOut]:
    """The messages that are published and not put away, as lines that say them."""
    rows = Workflow.written.filter(account=request.account, sort=Sort.MESSAGE, archived_at=None).order_by("name")
    words = library.words_of(request.account.id)
    return [
        SayableOut(id=row.id, name=row.name, line=words[row.name], labels=row.labels)
        for row in rows
        if row.name in words
    ]


@router.get("messages/wordings", response=list[WordingOut])
def shipped_wordings(request: AccountRequest, account: Path[str]) -> list[WordingOut]:
    """Wording of our own, to begin a message from."""
    return [
        WordingOut(
            key=one.key,
            trade=one.trade,
            occasion=one.occasion,
            name=one.name,
            subject=next((said.heading for said in one.line.versions().values() if said.heading), ""),
            words={channel: said.body for channel, said in one.line.versions().items()},
        )
        for one in wordings()
    ]


@router.get("messages/{int:message_id}", response=MessageRow)
def one_message(request: AccountRequest, account: Path[str], message_id: int) -> MessageRow:
    return _rows(request, [message_row(request, message_id)])[0]


@router.post("messages", response={201: WorkflowOut})
def new_message(request: AccountRequest, account: Path[str], new: NewMessage) -> tuple[int, WorkflowOut]:
    require(request, "workflows")
    kind = KINDS.get(new.kind)
    line = next((one.line for one in wordings() if one.key == new.wording), None)
    if new.wording and line is None:
        raise BadFields({"wording": "There is no such wording."})
    if line is None and (kind is None or not issubclass(kind, Speaking)):
        raise BadFields({"kind": "No message goes that way."})
    if line is None:
        line = kind.blank()  # type: ignore[union-attr, assignment]
    try:
        made = publishing_messages.create(request.account, new.name, line, request.person)  # type: ignore[arg-type]
    except NotAName as error:
        raise BadFields({"name": str(error)}) from None
    return 201, workflow_out(request, made)


@router.post("messages/keep", response={201: SayableOut})
def keep_message(request: AccountRequest, account: Path[str], given: KeepIn) -> tuple[int, SayableOut]:
    """The message of a line, put into the library and published, so that the line can say it."""
    require(request, "workflows")
    if not isinstance(given.line, Speaking):
        raise BadFields({"line": "This line says nothing that could be kept."})
    try:
        made = publishing_messages.keep(request.account, given.name, given.line, request.person)
    except NotAName as error:
        raise BadFields({"name": str(error)}) from None
    except writing.CannotPublish as error:
        raise HttpError(422, f"Not kept. {error}") from None
    line = message_of(writing.draft_of(made))
    return 201, SayableOut.model_validate({"id": made.id, "name": made.name, "line": line, "labels": []})


@router.put("messages/{int:message_id}", response=MessageRow)
def change_message(request: AccountRequest, account: Path[str], message_id: int, given: MessageIn) -> MessageRow:
    """Its name, everywhere at once; its labels; whether it is put away: lines that say it go on saying it."""
    require(request, "workflows")
    row = message_row(request, message_id)
    try:
        publishing_messages.give_name(row, given.name, request.person)
    except NotAName as error:
        raise BadFields({"name": str(error)}) from None
    row.refresh_from_db()
    row.labels = list(dict.fromkeys(given.labels))
    row.save(update_fields=["labels"])
    if given.archived != (row.archived_at is not None):
        row.archived_at = clock.now() if given.archived else None
        row.save(update_fields=["archived_at"])
    return _rows(request, [row])[0]


@router.get("messages/{int:message_id}/publish", response=MessagePlan)
def message_plan(request: AccountRequest, account: Path[str], message_id: int) -> MessagePlan:
    """What publishing would do."""
    row = message_row(request, message_id)
    document: Document = writing.draft_of(row)
    line = message_of(document)
    checks = writing.all_checks(request.account, document, row)
    errors = [one.sentence for one in checks if one.severity == "error"]
    found = publishing_messages.objections(request.account, row.name, line) if line and not errors else []
    return MessagePlan(
        revision=row.revision,
        version=(row.published.number if row.published else 0) + 1,
        changes=writing.unpublished_changes(row),
        said_by=library.said_where(request.account).get(row.name, []),
        errors=errors,
        warnings=[one.sentence for one in checks if one.severity == "warning"],
        objections=[ObjectionOut(workflow=one.workflow, why=one.why) for one in found],
    )


@router.post("messages/{int:message_id}/publish", response=WorkflowOut)
def publish_message(request: AccountRequest, account: Path[str], message_id: int, asked: MessagePublish) -> WorkflowOut:
    require(request, "workflows")
    row = message_row(request, message_id)
    try:
        publishing_messages.publish(row, asked.revision, request.person)
    except (writing.CannotPublish, publishing_messages.Objected) as error:
        raise HttpError(422, f"Not published. {error}") from None
    except writing.ChangedElsewhere:
        raise HttpError(409, "Not published: the draft was changed since you looked at it.") from None
    return workflow_out(request, message_row(request, message_id))
