"""Accounts."""

from datetime import datetime
from typing import Annotated, Any, cast

from django.http import HttpRequest
from ninja import Path, Query, Router, Schema
from ninja.errors import HttpError

from bluffside.core.phone_numbers import as_written, example_mobile
from bluffside.core.terms import CHANNEL_KINDS, Channel
from bluffside.core.timing.local import to_local
from bluffside.server.practice import clock, installation, keeping
from bluffside.server.practice import pulse as pulse_of
from bluffside.server.practice.access import AccountRequest, InAccount, SignedIn, rights_of
from bluffside.server.practice.finding import Found, find
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.words import moment

accounts = Router(tags=["accounts"], auth=InAccount())


class AccountOut(Schema):
    slug: str
    name: str
    zone: str
    role: str


class ChannelOut(Schema):
    """`one` of its messages, in words; `answered`: whether contacts can answer on it."""

    name: Channel
    one: str
    answered: bool


class AccountDetails(AccountOut):
    """`outside`: whether phones, mailboxes or services are simulated here, so that there is something to look at.
    `stopped`: since when, by whom and why all sending is stopped; empty when it is not. `trying_out`: it is not live yet."""

    region: str
    phone: str
    example_mobile: str  # in E.164, a number of the country that nobody has; empty where none is known
    example_number: str  # the same, as the country writes it
    text_number: str
    sender_name: str
    sender_email: str
    member: str
    rights: list[str]
    now: datetime
    local_now: str
    clock_moved: bool
    outside: bool
    stopped: str
    trying_out: bool
    channels: list[ChannelOut]


@accounts.get("", response=AccountDetails)
def details(request: AccountRequest, account: Path[str]) -> AccountDetails:
    own: Account = request.account
    now = clock.now()
    return AccountDetails(
        slug=own.slug,
        name=own.name,
        zone=own.zone,
        role=request.role,
        region=own.region,
        phone=own.phone,
        example_mobile=example_mobile(own.region),
        example_number=as_written(example_mobile(own.region), own.region),
        text_number=own.text_number,
        sender_name=own.sender_name,
        sender_email=own.sender_email,
        member=own.responsible.first_name if own.responsible else "",
        rights=sorted(rights_of(request.role)),
        now=now,
        local_now=to_local(now, own.zone).isoformat(timespec="minutes"),
        clock_moved=bool(clock.ahead()),
        outside=installation.simulates_anything(),
        stopped=_stopped(own),
        trying_out=own.trying_out,
        channels=[ChannelOut(name=one.name, one=one.one, answered=one.answered) for one in CHANNEL_KINDS.values()],
    )


def _stopped(account: Account) -> str:
    if not account.stopped_at:
        return ""
    by = f" by {account.stopped_by.name}" if account.stopped_by else ""
    return f"since {moment(account.stopped_at, account.zone)}{by}: {account.stopped_why}"


class KeptOut(Schema):
    name: str
    words: str
    months: int
    least: int


class KeepingOut(Schema):
    """How long each sort of thing is kept, in months; and how long somebody stays signed in, in days."""

    sorts: list[KeptOut]
    session_days: int


class KeepingIn(Schema):
    months: dict[str, int]
    session_days: int


class OfPractice(SignedIn):
    """A consultant, for what holds for all accounts of the practice."""

    def authenticate(self, request: HttpRequest, key: str | None) -> Person | None:
        person = super().authenticate(request, key)
        if person and not person.is_consultant:
            raise HttpError(403, "What holds for all accounts is set by the consultant.")
        return person


practice = Router(tags=["practice"], auth=OfPractice())


@practice.get("keeping", response=KeepingOut)
def how_long(request: HttpRequest) -> KeepingOut:
    own = cast(Person, request.user).practice
    kept = keeping.months(own)
    return KeepingOut(
        sorts=[
            KeptOut(name=name, words=sort.words, months=kept[name], least=sort.least)
            for name, sort in keeping.SORTS.items()
        ],
        session_days=keeping.session_days(own),
    )


@practice.put("keeping", response=KeepingOut)
def set_how_long(request: HttpRequest, given: KeepingIn) -> KeepingOut:
    """What is older is taken away by a worker, for good, beginning at once."""
    try:
        keeping.change(cast(Person, request.user).practice, given.months, given.session_days)
    except keeping.CannotKeep as error:
        raise HttpError(422, str(error)) from None
    return how_long(request)


class Pulse(Schema):
    """`last` is another whenever anything of the account was written. `working`: whether a worker was seen in the last half
    minute; without one nothing goes out or goes on by itself."""

    last: int
    working: bool


class LetInLately(InAccount):
    """Who was let in lately is, without a look at anything."""

    def __call__(self, request: HttpRequest) -> Any:
        slug = str(request.resolver_match.kwargs["account"]) if request.resolver_match else ""
        if known := pulse_of.remembered(request, slug):
            return known
        if person := super().__call__(request):
            pulse_of.remember(request, slug, cast(AccountRequest, request).account.id)
            return person
        return None


class FoundOut(Schema):
    kind: str
    id: int
    name: str
    about: str


@accounts.get("find", response=list[FoundOut])
def found(request: AccountRequest, account: Path[str], q: Annotated[str, Query(max_length=80)] = "") -> list[Found]:
    """What has these words in its name, to go there: some of each kind, contacts first."""
    return find(request.account, q)


@accounts.get("pulse", response=Pulse, auth=LetInLately())
def pulse(request: HttpRequest, account: Path[str]) -> Pulse:
    """What open pages ask each second, and ask for everything they show only when it has changed."""
    known = pulse_of.remembered(request, account)
    if known is None:
        raise HttpError(401, "Sign in.")
    found = pulse_of.look(known, request)
    if found is None:
        raise HttpError(401, "Sign in.")
    return Pulse(last=found.last, working=found.working)
