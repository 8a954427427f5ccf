"""What was shown to the client: by whom, when, what they said, whether they agreed."""

from datetime import datetime

from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from pydantic import Field

from bluffside.core.workflow.document import walk
from bluffside.core.workflow.files import to_data
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.refusals import BadFields
from bluffside.server.workflows import showing, writing
from bluffside.server.workflows.api import local_moment, written_of
from bluffside.server.workflows.models import Remark, Showing

router = Router(tags=["showings"], auth=InAccount())


class RemarkOut(Schema):
    """`sentence`: of the line that it is about, as it was shown; empty: about the whole."""

    id: int
    line: str
    sentence: str
    who: str
    words: str
    local_made: str
    answer: str
    answered_by: str


class ShowingOut(Schema):
    """`address` is empty once the link leads nowhere any more; `is_current`: the draft says what was shown."""

    id: int
    client: str
    words: str
    address: str
    shown_at: datetime
    local_shown: str
    shown_by: str
    agreed_by: str
    local_agreed: str
    is_current: bool
    remarks: list[RemarkOut]


class Standing(Schema):
    """How it stands with the client, by what they were shown last; `remark_by`: whose remark waits for an answer."""

    client: str
    local_shown: str
    agreed_by: str
    local_agreed: str
    is_current: bool
    remark_by: str


class ShowIn(Schema):
    client: str = Field(max_length=120)
    words: str = Field(default="", max_length=2_000)


class RemarkAnswer(Schema):
    words: str = Field(max_length=2_000)


def standing_out(request: AccountRequest, found: showing.Standing, now: object) -> Standing:
    """`now`: the draft, as plain data."""
    one = found.showing
    return Standing(
        client=one.client,
        local_shown=local_moment(request, one.shown_at),
        agreed_by=one.agreed_by,
        local_agreed=local_moment(request, one.agreed_at) if one.agreed_at else "",
        is_current=one.document == now,
        remark_by=found.remark_by,
    )


def _out(request: AccountRequest, one: Showing, now: object) -> ShowingOut:
    sentences = {step.id: step.describe() for step in walk(showing.document_of(one).steps)}
    return ShowingOut(
        id=one.pk,
        client=one.client,
        words=one.words,
        address=showing.address_of(one) if showing.is_open(one) else "",
        shown_at=one.shown_at,
        local_shown=local_moment(request, one.shown_at),
        shown_by=one.shown_by.name if one.shown_by else "",
        agreed_by=one.agreed_by,
        local_agreed=local_moment(request, one.agreed_at) if one.agreed_at else "",
        is_current=one.document == now,
        remarks=[
            RemarkOut(
                id=each.pk,
                line=each.line,
                sentence=sentences.get(each.line, ""),
                who=each.who,
                words=each.words,
                local_made=local_moment(request, each.made_at),
                answer=each.answer,
                answered_by=each.answered_by.name if each.answered_by else "",
            )
            for each in one.remarks.select_related("answered_by").order_by("id")
        ],
    )


@router.get("workflows/{int:workflow_id}/showings", response=list[ShowingOut])
def list_showings(request: AccountRequest, account: Path[str], workflow_id: int) -> list[ShowingOut]:
    """The newest first."""
    row = written_of(request, workflow_id)
    now = to_data(writing.draft_of(row))
    return [_out(request, one, now) for one in row.showings.select_related("account", "shown_by").order_by("-id")]


@router.get("workflows/{int:workflow_id}/shown", response=Standing | None)
def how_it_stands(request: AccountRequest, account: Path[str], workflow_id: int) -> Standing | None:
    row = written_of(request, workflow_id)
    found = showing.standings(request.account, row.pk).get(row.pk)
    return standing_out(request, found, to_data(writing.draft_of(row))) if found else None


@router.post("workflows/{int:workflow_id}/showings", response={201: ShowingOut})
def make_showing(
    request: AccountRequest, account: Path[str], workflow_id: int, given: ShowIn
) -> tuple[int, ShowingOut]:
    """The draft as it stands, by a link that needs no sign-in."""
    require(request, "workflows")
    client = " ".join(given.client.split())
    if not client:
        raise BadFields({"client": "Whom do you show it to?"})
    made = showing.show(written_of(request, workflow_id), client, given.words.strip(), request.person)
    return 201, _out(request, made, made.document)


@router.post("showings/{int:showing_id}/end", response={204: None})
def end_showing(request: AccountRequest, account: Path[str], showing_id: int) -> tuple[int, None]:
    require(request, "workflows")
    rows = Showing.objects.select_related("account", "workflow")
    showing.end(get_object_or_404(rows, account=request.account, pk=showing_id), request.person)
    return 204, None


@router.post("showings/remarks/{int:remark_id}/answer", response={204: None})
def answer_remark(request: AccountRequest, account: Path[str], remark_id: int, given: RemarkAnswer) -> tuple[int, None]:
    """The client reads it below the remark."""
    require(request, "workflows")
    if not (words := given.words.replace("\0", "").strip()):
        raise BadFields({"words": "What do you answer?"})
    rows = Remark.objects.select_related("showing__account", "showing__workflow")
    showing.answer(get_object_or_404(rows, account=request.account, pk=remark_id), words, request.person)
    return 204, None
