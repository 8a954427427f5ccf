"""The practice: its accounts in one table, a new one, putting away and bringing back; and whether an account is live."""

from collections.abc import Callable
from datetime import datetime
from typing import Literal, cast

from django.http import Http404, HttpRequest, StreamingHttpResponse
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.words import place
from bluffside.server.messaging import stopping
from bluffside.server.people.models import Contact
from bluffside.server.practice import audit, clock, walls
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.api import OfPractice
from bluffside.server.practice.models import Account, AccountExport, Person
from bluffside.server.practice.words import moment
from bluffside.server.set_up import accounts, deleting, depending, going_live, places, whole_export
from bluffside.server.workflows.models import Workflow

practice = Router(tags=["practice"], auth=OfPractice())
live = Router(tags=["set-up"], auth=InAccount())
State = Literal["tried out", "live", "stopped", "put away", "being deleted"]


class FileOut(Schema):
    """A file of everything the account owns: `share` of its rows that are in it (0 to 1), its size in bytes, when it was asked
    for and whether somebody has taken it."""

    state: Literal["running", "stopped", "done"]
    share: float
    size: int
    asked: str
    taken: bool


class PracticeAccount(Schema):
    """`state`, and since when, in words: tried out is not live yet. `workflows`: how many are published. `delete_first`: what must
    be done before it can be deleted; empty when nothing must."""

    slug: str
    name: str
    trade: str
    place: str
    state: State
    since: str
    contacts: int
    workflows: int
    file: FileOut | None
    delete_first: str


class DeletedOut(Schema):
    """`gone`: none of its rows is left; `rows`: how many were taken away so far."""

    name: str
    by: str
    at: str
    rows: int
    gone: bool


class PracticeOut(Schema):
    name: str
    accounts: list[PracticeAccount]
    deleted: list[DeletedOut]


@practice.get("", response=PracticeOut)
def whole(request: HttpRequest) -> PracticeOut:
    own = cast(Person, request.user).practice
    zone = cast(Person, request.user).zone or "UTC"
    return PracticeOut(
        name=own.name,
        accounts=[_account(one) for one in own.accounts.order_by("name")],
        deleted=[
            DeletedOut(
                name=one.name, by=one.by_name, at=moment(one.at, zone), rows=one.rows, gone=one.gone_at is not None
            )
            for one in own.deleted_accounts.order_by("-at")[:50]
        ],
    )


def _account(one: Account) -> PracticeAccount:
    with walls.within(one):
        contacts = Contact.objects.filter(account=one).count()
        workflows = Workflow.objects.filter(account=one, archived_at=None, published__isnull=False).count()
        file = AccountExport.objects.filter(account=one).first()
        delete_first = deleting.why_not(one)
    state, since = _state(one)
    return PracticeAccount(
        slug=one.slug,
        name=one.name,
        trade=one.trade,
        place=f"{place(one.zone)}, {places.country(one.region)}",
        state=state,
        since=moment(since, one.zone) if since else "",
        contacts=contacts,
        workflows=workflows,
        file=_file(file, one.zone) if file else None,
        delete_first=delete_first,
    )


def _file(one: AccountExport, zone: str) -> FileOut:
    share = 1.0 if one.state == AccountExport.State.DONE else min(1.0, one.rows / max(1, one.total))
    return FileOut(
        state=cast(Literal["running", "stopped", "done"], one.state),
        share=share,
        size=one.size,
        asked=moment(one.asked_at, zone),
        taken=one.taken_at is not None,
    )


def _state(one: Account) -> tuple[State, datetime | None]:
    if one.deleting_at:
        return "being deleted", one.deleting_at
    if one.archived_at:
        return "put away", one.archived_at
    if one.stopped_at:
        return "stopped", one.stopped_at
    return ("tried out", None) if one.trying_out else ("live", one.live_since)


class NewAccount(Schema):
    """`like`: the account whose house rules and brand it begins with; empty for none."""

    name: str = Field(max_length=120)
    zone: str = Field(max_length=64)
    trade: str = Field(default="", max_length=80)
    like: str = Field(default="", max_length=50)


class MadeOut(Schema):
    slug: str


@practice.post("accounts", response={201: MadeOut})
def make(request: HttpRequest, given: NewAccount) -> tuple[int, MadeOut]:
    person = cast(Person, request.user)
    like = _own(person, given.like) if given.like else None
    made = accounts.make(person.practice, given.name, given.zone, given.trade, person, like)
    return 201, MadeOut(slug=made.slug)


@practice.post("accounts/{slug}/put-away", response={204: None})
def put_away(request: HttpRequest, slug: Path[str]) -> tuple[int, None]:
    """Stops its sending at once; what comes in is kept."""
    return _act(request, slug, accounts.put_away)


@practice.post("accounts/{slug}/bring-back", response={204: None})
def bring_back(request: HttpRequest, slug: Path[str]) -> tuple[int, None]:
    """Its sending stays stopped until that is lifted, and what fell due decided upon."""
    return _act(request, slug, accounts.bring_back)


@practice.post("accounts/{slug}/file", response={204: None})
def make_file(request: HttpRequest, slug: Path[str]) -> tuple[int, None]:
    """A file of everything the account owns is made by the worker; the one before is gone."""
    return _act(request, slug, whole_export.begin)


@practice.delete("accounts/{slug}/file", response={204: None})
def stop_file(request: HttpRequest, slug: Path[str]) -> tuple[int, None]:
    return _act(request, slug, lambda own, _: whole_export.stop(own))


@practice.get("accounts/{slug}/file", response={200: bytes})
def take_file(request: HttpRequest, slug: Path[str]) -> StreamingHttpResponse:
    """JSON Lines in gzip (whole_export.py)."""
    person = cast(Person, request.user)
    own = _own(person, slug)
    with walls.within(own):
        one = AccountExport.objects.filter(account=own, state=AccountExport.State.DONE).first()
        if one is None:
            raise HttpError(409, "There is no file of it yet, or it is being made.")
        AccountExport.objects.filter(pk=one.pk).update(taken_at=clock.now())
        audit.note(own, person, "exports", [audit.Noted("everything of the account", "", "taken as a file")])
    answer = StreamingHttpResponse(whole_export.content(one), content_type="application/gzip")
    answer["Content-Disposition"] = f'attachment; filename="{own.slug}.jsonl.gz"'
    answer["Content-Length"] = str(one.size)
    return answer


class TypedName(Schema):
    name: str = Field(max_length=200)


@practice.post("accounts/{slug}/delete", response={204: None})
def delete(request: HttpRequest, slug: Path[str], given: TypedName) -> tuple[int, None]:
    """For good: nobody enters it from now on, and its rows are taken away."""
    return _act(request, slug, lambda own, by: deleting.delete(own, given.name, by))


def _act(request: HttpRequest, slug: str, act: Callable[[Account, Person], object]) -> tuple[int, None]:
    person = cast(Person, request.user)
    own = _own(person, slug)
    with walls.within(own):
        try:
            act(own, person)
        except (stopping.CannotStop, deleting.CannotDelete) as error:
            raise HttpError(409, str(error)) from None
    return 204, None


def _own(person: Person, slug: str) -> Account:
    found = person.practice.accounts.filter(slug=slug, deleting_at=None).first()
    if found is None:
        raise Http404
    return found


class MissingOut(Schema):
    words: str
    page: str
    needed: bool


class LiveOut(Schema):
    """`missing`: what it has not, the needed first."""

    live: bool
    since: str
    missing: list[MissingOut]


def _live(request: AccountRequest) -> LiveOut:
    own = request.account
    found = going_live.missing(own, depending.published(own))
    return LiveOut(
        live=not own.trying_out,
        since=moment(own.live_since, own.zone) if own.live_since else "",
        missing=[MissingOut(**one._asdict()) for one in found],
    )


@live.get("set-up/live", response=LiveOut)
def is_live(request: AccountRequest, account: Path[str]) -> LiveOut:
    require(request, "set-up")
    return _live(request)


@live.post("set-up/live", response=LiveOut)
def go_live(request: AccountRequest, account: Path[str]) -> LiveOut:
    """From now on its messages reach everybody. 409 while something is missing without which it cannot send."""
    require(request, "set-up")
    if needed := [one.words for one in _live(request).missing if one.needed]:
        raise HttpError(409, " ".join(needed))
    try:
        stopping.go_live(request.account, request.person)
    except stopping.CannotStop as error:
        raise HttpError(409, str(error)) from None
    return _live(request)
