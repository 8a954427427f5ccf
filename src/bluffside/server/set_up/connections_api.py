"""Connections: how each stands, a test, a switch, its key. Keys are put in and never shown."""

from datetime import datetime
from typing import Literal

from django.http import Http404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.server.hooks import signing
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.connections import Kind, expect, silent_since
from bluffside.server.practice.words import moment
from bluffside.server.set_up import connections, depending
from bluffside.server.set_up.api import NamedOut

router = Router(tags=["set-up"], auth=InAccount())
HEADER_NAME = r"^[A-Za-z0-9!#$%&'*+.^_`|~-]+$"  # RFC 9110, 5.6.2


class WhichIn(Schema):
    kind: Kind
    name: str = Field(max_length=253)


class SwitchIn(WhichIn):
    on: bool


class ExpectIn(WhichIn):
    days: int | None = Field(default=None, ge=1, le=366)


class KeyIn(WhichIn):
    """`key`: empty to take it away."""

    header: str = Field(default="Authorization", min_length=1, max_length=60, pattern=HEADER_NAME)
    key: str = Field(max_length=2_000, pattern=r"^[\x20-\x7e]*$")


class ConnectionOut(Schema):
    """`since` and `said_at` in words; `done`, `failed`: in 30 days; `waiting`: now. `key_at`: when the key was put in that goes
    along, empty without one."""

    kind: Kind
    name: str
    title: str
    about: str
    state: Literal["broken", "silent", "works", "unused", "not connected", "off"]
    since: str
    said: str
    said_at: str
    off_by: str
    used_by: list[NamedOut]
    done: int
    failed: int
    waiting: int
    test: bool
    testing: bool
    can_switch: bool
    takes_key: bool
    needs_key: bool
    key_header: str
    key_at: str
    expected_days: int | None
    can_expect: bool
    source_id: int


class ConnectionsOut(Schema):
    connections: list[ConnectionOut]


class TriedOut(ConnectionsOut):
    said: str


class SigningKeyOut(Schema):
    """Shown in this answer alone."""

    key: str


def _connections(request: AccountRequest) -> list[ConnectionOut]:
    own = request.account

    def when(at: datetime | None) -> str:
        return moment(at, own.zone) if at else ""

    return [
        ConnectionOut(
            kind=one.kind, name=one.name, title=one.title, about=one.about, state=one.state, since=when(one.since),
            said=one.said, said_at=when(one.said_at), off_by=one.off_by,
            used_by=[NamedOut(id=named.id, name=named.name) for named in one.used_by],
            done=one.done.total, failed=one.done.failed, waiting=one.done.waiting, test=one.test, testing=one.testing,
            can_switch=one.can_switch, takes_key=one.takes_key, needs_key=one.needs_key, key_header=one.key_header,
            key_at=when(one.key_at), expected_days=one.expected_days, can_expect=one.can_expect, source_id=one.source_id,
        )
        for one in connections.shown(own, depending.published(own))
    ]  # fmt: skip


def _known(request: AccountRequest, which: WhichIn) -> connections.Shown:
    """Raises 404 for one that the account does not have."""
    for one in connections.shown(request.account, depending.published(request.account)):
        if (one.kind, one.name) == (which.kind, which.name):
            return one
    raise Http404


@router.get("set-up/connections", response=ConnectionsOut)
def all_connections(request: AccountRequest, account: Path[str]) -> ConnectionsOut:
    return ConnectionsOut(connections=_connections(request))


@router.get("set-up/chapters", response=dict[str, str])
def what_chapters_need(request: AccountRequest, account: Path[str]) -> dict[str, str]:
    """What waits for somebody in Set-up, in two words, by the name of the page's address."""
    own = request.account
    unconfirmed = own.senders.filter(channel="email", confirmed_at=None).count()
    rows = own.connections.filter(off_at=None)
    broken = sum(bool(one.fault) for one in rows)
    silent = sum(silent_since(one) is not None for one in rows if not one.fault)
    found = {
        "senders": f"{unconfirmed} to confirm" if unconfirmed else "",
        "connections": f"{broken} broken" if broken else f"{silent} silent" if silent else "",
    }
    return {page: words for page, words in found.items() if words}


@router.post("set-up/connections/switch", response=ConnectionsOut)
def switch(request: AccountRequest, account: Path[str], given: SwitchIn) -> ConnectionsOut:
    require(request, "set-up")
    if not _known(request, given).can_switch:
        raise HttpError(409, "What comes in is always kept: this one cannot be switched off.")
    connections.switch(request.account, given.kind, given.name, given.on, request.person)
    return all_connections(request, account)


@router.post("set-up/connections/test", response=TriedOut)
def test(request: AccountRequest, account: Path[str], given: WhichIn) -> TriedOut:
    require(request, "set-up")
    one = _known(request, given)
    if not one.test:
        raise HttpError(409, "It cannot be tried: it is switched off, or there is nothing to try it with.")
    workflows = depending.published(request.account)
    try:
        said = connections.try_out(request.account, one.kind, one.name, workflows, request.person)
    except connections.CannotTest as error:
        raise HttpError(409, str(error)) from None
    return TriedOut(said=said, connections=_connections(request))


@router.post("set-up/connections/expected", response=ConnectionsOut)
def expected(request: AccountRequest, account: Path[str], given: ExpectIn) -> ConnectionsOut:
    """How often something is expected; when nothing comes for longer, it has gone silent."""
    require(request, "set-up")
    if not _known(request, given).can_expect:
        raise HttpError(409, "Nothing comes from it by itself.")
    expect(request.account, given.kind, given.name, given.days, request.person)
    return all_connections(request, account)


@router.put("set-up/connections/key", response=ConnectionsOut)
def put_key_in(request: AccountRequest, account: Path[str], given: KeyIn) -> ConnectionsOut:
    """Kept sealed, and shown to nobody. What waits for the connection goes with it at once."""
    require(request, "set-up")
    if not _known(request, given).takes_key:
        raise HttpError(409, "It asks for no key here.")
    key = given.key.strip()
    connections.put_key_in(request.account, given.kind, given.name, given.header, key, request.person)
    return all_connections(request, account)


@router.post("set-up/connections/again", response=ConnectionsOut)
def again(request: AccountRequest, account: Path[str], given: WhichIn) -> ConnectionsOut:
    """Its requests that failed are made once more."""
    require(request, "set-up")
    one = _known(request, given)
    connections.tried_again(request.account, one.kind, one.name)
    return all_connections(request, account)


@router.post("set-up/connections/signing-key", response=SigningKeyOut)
def signing_key(request: AccountRequest, account: Path[str]) -> SigningKeyOut:
    """A new key that signs the account's requests; the one before signs nothing any more."""
    require(request, "set-up")
    return SigningKeyOut(key=signing.make_anew(request.account, request.person))
