"""Oneself: what one is called, how one is told of what, and when one is away. Passwords, second steps and sessions are
allauth's (settings: HEADLESS)."""

from datetime import date
from typing import Annotated, cast

from django.db import transaction
from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from bluffside.core.phone_numbers import as_written
from bluffside.server.diary.told import KINDS, WAYS, How, how_told
from bluffside.server.people import addresses
from bluffside.server.practice import walls
from bluffside.server.practice.access import SignedInAtAll, role_in
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.refusals import BadFields
from bluffside.server.set_up import places, team
from bluffside.server.set_up.api import ZoneOut

router = Router(tags=["myself"], auth=SignedInAtAll())


class WayOut(Schema):
    name: How
    words: str


class ToldOut(Schema):
    """Of what, how now, and what can be said instead."""

    kind: str
    words: str
    how: How
    ways: list[WayOut]


class MyselfOut(Schema):
    """`zone`: IANA, empty for that of each account; `number`: the telephone as written. `demanded`: the practice demands a
    second step of everybody."""

    name: str
    email: str
    phone: str
    number: str
    zone: str
    signature: str
    told: list[ToldOut]
    away_from: date | None
    away_until: date | None
    demanded: bool


class MyselfIn(Schema):
    """What is not said stays as it is. `told`: how, by kind. `phone` as typed."""

    name: str | None = Field(default=None, max_length=120)
    phone: str | None = Field(default=None, max_length=40)
    zone: str | None = Field(default=None, max_length=64)
    signature: str | None = Field(default=None, max_length=200)
    told: dict[str, str] | None = None
    away_from: date | None = None
    away_until: date | None = None


def _person(request: HttpRequest) -> Person:
    return cast(Person, request.user)


def _accounts(person: Person) -> list[Account]:
    return [one for one in person.practice.accounts.order_by("name") if role_in(person, one)]


def _myself(person: Person) -> MyselfOut:
    home = next(iter(_accounts(person)), None)
    return MyselfOut(
        name=person.name,
        email=person.email,
        phone=person.phone,
        number=as_written(person.phone, home.region if home else ""),
        zone=person.zone,
        signature=person.signature,
        told=[
            ToldOut(
                kind=name,
                words=kind.words,
                how=how_told(person, name),
                ways=[WayOut(name=way, words=WAYS[way]) for way in kind.ways],
            )
            for name, kind in KINDS.items()
        ],
        away_from=person.away_from,
        away_until=person.away_until,
        demanded=person.practice.second_step,
    )


@router.get("", response=MyselfOut)
def myself(request: HttpRequest) -> MyselfOut:
    return _myself(_person(request))


@router.patch("", response=MyselfOut)
@transaction.atomic
def change(request: HttpRequest, given: MyselfIn) -> MyselfOut:
    person, said = _person(request), given.model_dump(exclude_unset=True)
    home = next(iter(_accounts(person)), None)
    faults = {}
    for name in ("name", "signature"):
        if name in said:
            setattr(person, name, " ".join((said[name] or "").replace("\0", "").split()))
    if not person.name:
        faults["name"] = "What are you called?"
    if "phone" in said:
        try:
            person.phone = addresses.mobile(said["phone"] or "", home.region if home else "")
        except ValueError as error:
            faults["phone"] = f"{error}."
    if "zone" in said:
        person.zone = said["zone"] or ""
        if person.zone and person.zone not in {one.zone for one in places.zones()}:
            faults["zone"] = "Type a town or a country, and pick."
    for kind, how in (said.get("told") or {}).items():
        if kind not in KINDS or how not in KINDS[kind].ways:
            faults["told"] = "One cannot be told so."
        else:
            person.told = {**person.told, kind: how}
    if faults:
        raise BadFields(faults)
    person.save(update_fields=["name", "signature", "phone", "zone", "told"])
    if {"away_from", "away_until"} & set(said):
        dates = {"away_from": person.away_from, "away_until": person.away_until, **said}
        _be_away(person, dates["away_from"], dates["away_until"])
    return _myself(person)


def _be_away(person: Person, first: date | None, last: date | None) -> None:
    """Noted in every account that they work in."""
    old = (person.away_from, person.away_until)
    for account in _accounts(person):
        person.away_from, person.away_until = old
        with walls.within(account):
            team.be_away(account, person, person, first, last)


@router.get("zones", response=list[ZoneOut])
def zones(request: HttpRequest, q: Annotated[str, Query(max_length=80)] = "") -> list[ZoneOut]:
    """Time zones by a town or a country."""
    return [ZoneOut(**one._asdict()) for one in places.find_zones(q)]
