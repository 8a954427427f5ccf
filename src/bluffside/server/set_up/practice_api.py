"""The practice: its accounts in one table, a new one, putting away and bringing back; and whether an account is live."""

from collections.abc import Callable
from datetime import datetime
from typing import Literal, cast

from django.http import Http404, HttpRequest
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.words import place
from bluffside.server.messaging import stopping
from bluffside.server.people.models import Contact
from bluffside.server.practice import walls
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.api import OfPractice
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.words import moment
from bluffside.server.set_up import accounts, depending, going_live, places
from bluffside.server.workflows.models import Workflow

practice = Router(tags=["practice"], auth=OfPractice())
live = Router(tags=["set-up"], auth=InAccount())
State = Literal["tried out", "live", "stopped", "put away"]


class PracticeAccount(Schema):
    """`state`, and since when, in words: tried out is not live yet. `workflows`: how many are published."""

    slug: str
    name: str
    trade: str
    place: str
    state: State
    since: str
    contacts: int
    workflows: int


class PracticeOut(Schema):
    name: str
    accounts: list[PracticeAccount]


@practice.get("", response=PracticeOut)
def whole(request: HttpRequest) -> PracticeOut:
    own = cast(Person, request.user).practice
    return PracticeOut(name=own.name, accounts=[_account(one) for one in own.accounts.order_by("name")])


def _account(one: Account) -> PracticeAccount:
    with walls.within(one):
        contacts = Contact.objects.filter(account=one).count()
        workflows = Workflow.objects.filter(account=one, archived_at=None, published__isnull=False).count()
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
    )


def _state(one: Account) -> tuple[State, datetime | None]:
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


def _act(request: HttpRequest, slug: str, act: Callable[[Account, Person], None]) -> tuple[int, None]:
    person = cast(Person, request.user)
    own = _own(person, slug)
    with walls.within(own):
        try:
            act(own, person)
        except stopping.CannotStop as error:
            raise HttpError(409, str(error)) from None
    return 204, None


def _own(person: Person, slug: str) -> Account:
    found = person.practice.accounts.filter(slug=slug).first()
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
