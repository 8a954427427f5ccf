"""Stopping all sending of an account, lifting that, and deciding upon what fell due meanwhile."""

from typing import Literal

from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.server.messaging import stopping
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment
from bluffside.server.workflows import held_back

router = Router(tags=["sending"], auth=InAccount())


class StopIn(Schema):
    why: str = Field(min_length=1, max_length=200)


class Stopped(Schema):
    """How many messages are held in the outbox by it."""

    held: int


class HeldBackIn(Schema):
    where: Literal["at a line", "in the outbox"]
    name: str
    version: int = 0
    place: str = ""
    channel: str = ""


class HeldBackOut(HeldBackIn):
    workflow: str
    how_many: int
    since: str


class Decision(HeldBackIn):
    goes: bool


class Decided(Schema):
    """For how many it is decided by this; ask again until it is nobody."""

    count: int


@router.post("sending/stop", response=Stopped)
def stop(request: AccountRequest, account: Path[str], given: StopIn) -> Stopped:
    """At once: what no carrier has taken yet does not go."""
    require(request, "workflows")
    try:
        return Stopped(held=stopping.stop(request.account, given.why, request.person))
    except stopping.CannotStop as error:
        raise HttpError(409, str(error)) from None


@router.post("sending/lift", response={204: None})
def lift(request: AccountRequest, account: Path[str]) -> tuple[int, None]:
    require(request, "workflows")
    try:
        stopping.lift(request.account, request.person)
    except stopping.CannotStop as error:
        raise HttpError(409, str(error)) from None
    return 204, None


@router.get("sending/held-back", response=list[HeldBackOut])
def what_fell_due(request: AccountRequest, account: Path[str]) -> list[HeldBackOut]:
    return [
        HeldBackOut(**one._asdict() | {"since": moment(one.since, request.account.zone)})
        for one in held_back.held_back(request.account)
    ]


@router.post("sending/decide", response=Decided)
def decide(request: AccountRequest, account: Path[str], given: Decision) -> Decided:
    """For some hundred at a time."""
    require(request, "workflows")
    wanted = given.model_dump(exclude={"goes"})
    one = next((one for one in held_back.held_back(request.account) if wanted.items() <= one._asdict().items()), None)
    if one is None:
        return Decided(count=0)
    try:
        return Decided(count=held_back.decide(request.account, one, given.goes, request.person))
    except stopping.CannotStop as error:
        raise HttpError(409, str(error)) from None
