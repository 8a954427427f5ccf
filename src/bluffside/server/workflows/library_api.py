"""Around the script: names of the account and where they are used, lines from elsewhere, the starter set, copies and
archive, the script on paper and as a flowchart, a test message to oneself."""

from typing import Literal

from django.db import transaction
from django.db.models import Value
from django.db.models.functions import Concat, Length
from django.http import HttpResponse
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.channel_kinds.mail_head import MailHead, SentHead
from bluffside.core.channels.text_parts import measure
from bluffside.core.facts import Facts
from bluffside.core.letters.compiling import addressed
from bluffside.core.letters.document import Letter
from bluffside.core.messages.closing import closing_for
from bluffside.core.messages.merge import BadTemplate, render
from bluffside.core.steps import AnyStep
from bluffside.core.terms import Channel
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.mermaid import flowchart
from bluffside.core.workflow.reading import Reading, read
from bluffside.server.messaging import testing
from bluffside.server.messaging.letters import html_for
from bluffside.server.people import usages
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.workflows import names, paper, writing
from bluffside.server.workflows.api import Invented, WorkflowOut, facts_for, workflow_of, workflow_out
from bluffside.server.workflows.signals import take_out_many
from bluffside.starters import starters

router = Router(tags=["library"], auth=InAccount())
Colour = Literal["", "sea", "thrift", "gorse", "kelp", "rust", "slate"]


class NameOut(Schema):
    name: str
    about: str


class Names(Schema):
    """By kind: tag, field, list, form, pipeline, stage, appointment, workflow, member, service, sender, message."""

    names: dict[str, list[NameOut]]
    own_fields: dict[str, str]


class LinesIn(Schema):
    """Lines from another workflow or account, and names (kind, old, new) to be put in place of others."""

    steps: list[AnyStep]
    names: list[tuple[str, str, str]] = []


class LinesOut(Schema):
    steps: list[AnyStep]
    missing: list[names.Missing]


class Starter(Schema):
    key: str
    document: Document
    reading: Reading


class LookIn(Schema):
    colour: Colour


class PreviewIn(Schema):
    channel: Channel = "text"
    body: str
    subject: str = ""
    contact_id: int | None = None
    letter: Letter | None = None  # whose plain words are the body
    head: MailHead | None = None
    name: str = Field(default="", max_length=120)
    reader: Literal["", "longest", "nothing"] = (
        ""  # the contact with the longest name; somebody of whom nothing is known
    )


class PreviewOut(Schema):
    """`below` is the line that stands under the body; parts, used and room (for a text) count it, too. `html`: of a letter; `called`: what
    stands beside the address, `reply_to`: where answers go, if not to whom it comes from."""

    contact: str
    subject: str
    body: str
    below: str
    fault: str
    parts: int
    used: int
    room: int
    alphabet: str
    html: str
    called: str = ""
    reply_to: str = ""
    faults: list[str]  # of a letter


class TestIn(Schema):
    channel: Channel
    body: str = Field(max_length=20_000)
    subject: str = Field(default="", max_length=500)
    sender: str = Field(default="", max_length=120)
    contact_id: int | None = None
    letter: Letter | None = None  # whose plain words are the body
    head: MailHead | None = None
    name: str = Field(default="", max_length=120)


class TestOut(Schema):
    to: str


@router.get("names", response=Names)
def all_names(request: AccountRequest, account: Path[str]) -> Names:
    found = names.names_of(request.account)
    by_kind = {kind: [NameOut(name=one.name, about=one.about) for one in named] for kind, named in found.items()}
    return Names(names=by_kind, own_fields=names.OWN_FIELDS)


@router.get("uses", response=list[usages.Use])
def where_used(request: AccountRequest, account: Path[str]) -> list[usages.Use]:
    return usages.uses(request.account)


@router.post("lines", response=LinesOut)
def lines_from_elsewhere(request: AccountRequest, account: Path[str], given: LinesIn) -> LinesOut:
    """What lines name that is not here, and the lines with other names in their place. Nothing is written."""
    lines = names.with_names(Document(name="lines", steps=tuple(given.steps)), given.names)
    return LinesOut(steps=list(lines.steps), missing=names.missing(request.account, lines))


# ---- the starter set


@router.get("starters", response=list[Starter])
def starter_set(request: AccountRequest, account: Path[str]) -> list[Starter]:
    zone, now = request.account.zone, clock.now()
    return [
        Starter(key=key, document=document, reading=read(document, now, zone)) for key, document in starters().items()
    ]


@router.post("starters/{key}", response={201: WorkflowOut})
def take_starter(request: AccountRequest, account: Path[str], key: str) -> tuple[int, WorkflowOut]:
    """A draft of the account's own, made from a starter."""
    require(request, "workflows")
    if key not in starters():
        raise HttpError(404, "There is no such starter.")
    return 201, workflow_out(request, writing.create(request.account, starters()[key], request.person))


# ---- copies, colour, archive


@router.post("workflows/{int:workflow_id}/copy", response={201: WorkflowOut})
def copy(request: AccountRequest, account: Path[str], workflow_id: int) -> tuple[int, WorkflowOut]:
    require(request, "workflows")
    return 201, workflow_out(request, writing.copy(workflow_of(request, workflow_id), request.person))


@router.put("workflows/{int:workflow_id}/colour", response={204: None})
def colour(request: AccountRequest, account: Path[str], workflow_id: int, look: LookIn) -> tuple[int, None]:
    require(request, "workflows")
    writing.set_colour(workflow_of(request, workflow_id), look.colour)
    return 204, None


@router.post("workflows/{int:workflow_id}/archive/{way}", response={204: None})
def archive(
    request: AccountRequest,
    account: Path[str],
    workflow_id: int,
    way: Literal["away", "back"],
    inside: Literal["", "go_on", "leave"] = "",
) -> tuple[int, None]:
    """Puts it away, or takes it out again. Where people are `inside`, it must be said what becomes of them."""
    require(request, "workflows")
    workflow = workflow_of(request, workflow_id)
    people = list(workflow.enrolments.filter(ended_at=None).select_related("workflow")) if way == "away" else []
    if people and not inside:
        count = "1 person is" if len(people) == 1 else f"{len(people)} people are"
        raise HttpError(409, f"{count} inside. Say whether they go on to the end, or leave now. Nothing was changed.")
    with transaction.atomic():
        writing.archive(workflow, way == "away", request.person)
        if people and inside == "leave":
            take_out_many(request.account, people, "the workflow was put away", request.person)
    return 204, None


# ---- on paper, as a flowchart


@router.get("workflows/{int:workflow_id}/script.pdf", response={200: bytes})
def script_on_paper(request: AccountRequest, account: Path[str], workflow_id: int) -> HttpResponse:
    """The script with its messages, to be signed off."""
    workflow = workflow_of(request, workflow_id)
    document = writing.draft_of(workflow)
    version = f"Draft of {workflow.changed_at:%-d %B %Y}"
    if workflow.published and workflow.published.document == workflow.draft:
        version = f"Version {workflow.published.number}"
    made = paper.script(document, request.account.name, request.account.zone, version, clock.now())
    return _file(made, "application/pdf", f"workflow-{workflow_id}.pdf")


@router.get("workflows/{int:workflow_id}/script.mmd", response={200: str})
def script_as_flowchart(request: AccountRequest, account: Path[str], workflow_id: int) -> HttpResponse:
    """A Mermaid flowchart, for documents."""
    made = flowchart(writing.draft_of(workflow_of(request, workflow_id)))
    return _file(made, "text/plain; charset=utf-8", f"workflow-{workflow_id}.mmd")


def _file(content: str | bytes, kind: str, name: str) -> HttpResponse:
    response = HttpResponse(content, content_type=kind)
    response["Content-Disposition"] = f"attachment; filename={name}"
    return response


# ---- how a message is read, and a test to oneself


def _reader(request: AccountRequest, words: PreviewIn) -> Facts:
    if words.reader == "nothing":
        return facts_for(request, None, Invented(first_name="", last_name="", email="", mobile=""))
    longest = None
    if words.reader == "longest":
        length = Length(Concat("first_name", Value(" "), "last_name"))
        longest = (
            Contact.objects.filter(account=request.account).order_by(length.desc(), "id").values_list("id", flat=True)
        )
    return facts_for(request, words.contact_id if longest is None else longest.first(), Invented())


def _head(words: PreviewIn | TestIn, facts: Facts) -> SentHead:
    """Raises BadTemplate."""
    if words.channel != "email":
        return SentHead()
    head = words.head or MailHead()
    return head.for_one(lambda text: render(text, facts), facts.account.care.link_tags, words.name)


@router.post("preview", response=PreviewOut)
def preview(request: AccountRequest, account: Path[str], words: PreviewIn) -> PreviewOut:
    """A message as a contact would read it."""
    facts = _reader(request, words)
    try:
        body = words.letter.plain() if words.letter else words.body
        subject, body, fault = render(words.subject, facts), render(body, facts), ""
        head, html = _head(words, facts), ""
        if words.letter:
            html = html_for(request.account, addressed(words.letter, lambda text: render(text, facts)), head.tags)
    except BadTemplate as error:
        subject, body, fault, head, html = words.subject, words.body, f"This {error}.", SentHead(), ""
    below = closing_for(facts, words.channel, body) if body else ""
    length = measure(body + below)
    return PreviewOut(
        contact=facts.contact.name,
        subject=subject,
        body=body,
        below=below.strip(),
        fault=fault,
        parts=length.parts,
        used=length.used,
        room=length.room,
        alphabet=length.alphabet,
        html=html,
        called=head.called,
        reply_to=head.reply_to,
        faults=list(dict.fromkeys(words.letter.faults())) if words.letter else [],
    )


@router.post("test-message", response=TestOut)
def test_message(request: AccountRequest, account: Path[str], given: TestIn) -> TestOut:
    """Sends a message as a contact would read it to oneself, at once, marked as a test. It is counted nowhere."""
    require(request, "workflows")
    facts = facts_for(request, given.contact_id, Invented())
    try:
        subject = render(given.subject, facts)
        body = render(given.letter.plain() if given.letter else given.body, facts)
        letter = addressed(given.letter, lambda text: render(text, facts)) if given.letter else None
        to = testing.to_oneself(
            request.account,
            request.person,
            given.channel,
            subject,
            body,
            given.sender,
            letter=letter,
            head=_head(given, facts),
        )
    except BadTemplate as error:
        raise HttpError(422, f"Not sent: the message {error}.") from None
    except testing.NotSent as error:
        raise HttpError(422, f"Not sent: {error}") from None
    return TestOut(to=to)
