"""Set-up: the business, hours and days off, house rules, what changed. What a page shows besides the setting says what depends
on it."""

from datetime import date
from typing import Annotated

from ninja import Path, Query, Router, Schema

from bluffside.core.care.calendar import calendars, subdivisions
from bluffside.core.care.house import RuleName
from bluffside.core.care.quiet import Opening
from bluffside.core.phone_numbers import as_written
from bluffside.server.people.queries import account_facts
from bluffside.server.practice import audit
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment
from bluffside.server.set_up import business, depending, hours, places
from bluffside.server.set_up.business import Business

router = Router(tags=["set-up"], auth=InAccount())
PAGE = 50


class NamedOut(Schema):
    id: int
    name: str


class DependsOut(Schema):
    """The workflows whose messages merge a detail, by its path."""

    path: str
    workflows: list[NamedOut]


class BusinessOut(Business):
    """`number`: the telephone as the country writes it; `depends` in the order of
    the merge fields."""

    number: str
    depends: list[DependsOut]


def _business(request: AccountRequest) -> BusinessOut:
    own = request.account
    kept = {name: getattr(own, name) for name in business.FIELDS}
    merged = depending.merging(depending.published(own), [one["name"] for one in own.details])
    return BusinessOut(
        **kept,
        details=own.details,
        number=as_written(own.phone, own.region),
        depends=[DependsOut(path=path, workflows=[*map(named, ones)]) for path, ones in merged.items()],
    )


def named(one: depending.Named) -> NamedOut:
    return NamedOut(id=one.id, name=one.name)


@router.get("set-up/business", response=BusinessOut)
def get_business(request: AccountRequest, account: Path[str]) -> BusinessOut:
    require(request, "set-up")
    return _business(request)


@router.put("set-up/business", response=BusinessOut)
def put_business(request: AccountRequest, account: Path[str], given: Business) -> BusinessOut:
    """What goes out from now on says it; what is out stays as it was."""
    require(request, "set-up")
    business.change(request.account, given, request.person)
    return _business(request)


class ChoiceOut(Schema):
    code: str
    name: str


class PlacesOut(Schema):
    countries: list[ChoiceOut]
    currencies: list[ChoiceOut]
    languages: list[ChoiceOut]


class ZoneOut(Schema):
    zone: str
    town: str
    region: str
    country: str


@router.get("set-up/places", response=PlacesOut)
def get_places(request: AccountRequest, account: Path[str]) -> PlacesOut:
    """What can be chosen: countries (ISO 3166-1), currencies (ISO 4217), languages (BCP 47)."""
    return PlacesOut(
        countries=[ChoiceOut(**one._asdict()) for one in places.countries()],
        currencies=[ChoiceOut(**one._asdict()) for one in places.currencies()],
        languages=[ChoiceOut(**one._asdict()) for one in places.languages()],
    )


class DayOut(Schema):
    """`closed`: the holiday that keeps it closed; `usual`: as its weekday is; `clocks`: minutes that they go forward."""

    day: date
    hours: list[Opening]
    closed: str
    usual: bool
    clocks: int


class HolidayOut(Schema):
    name: str
    day: date
    kept: bool


class CalendarOut(Schema):
    """A country whose public holidays are known, and its parts that have some of their own."""

    code: str
    name: str
    parts: list[ChoiceOut]


class HoursOut(Schema):
    """Six weeks from this Monday, and which workflows wait for the team, skip holidays, or send."""

    today: date
    sentence: str
    days: list[DayOut]
    holidays: list[HolidayOut]
    wait: list[NamedOut]
    skip: list[NamedOut]
    send: list[NamedOut]


@router.get("set-up/hours", response=HoursOut)
def get_hours(request: AccountRequest, account: Path[str]) -> HoursOut:
    require(request, "set-up")
    own, care = request.account, account_facts(request.account).care
    days, workflows = hours.weeks_ahead(own, care), depending.published(own)
    return HoursOut(
        today=hours.today(own),
        sentence=hours.in_a_sentence(care, days),
        days=[DayOut(**{**one._asdict(), "hours": list(one.hours)}) for one in days],
        holidays=[HolidayOut(**one._asdict()) for one in hours.holidays_ahead(own, care)],
        wait=[*map(named, depending.those(workflows, hours.waits_for_hours))],
        skip=[*map(named, depending.those(workflows, hours.skips_holidays))],
        send=[*map(named, depending.those(workflows, hours.speaks))],
    )


@router.get("set-up/calendars", response=list[CalendarOut])
def get_calendars(request: AccountRequest, account: Path[str]) -> list[CalendarOut]:
    named = (
        CalendarOut(
            code=code,
            name=places.country(code),
            parts=[ChoiceOut(code=one, name=name) for one, name in subdivisions(code).items()],
        )
        for code in calendars()
    )
    return sorted(named, key=lambda one: one.name)


class HouseRuleOut(Schema):
    name: RuleName
    broken: list[NamedOut]


class HouseRulesOut(Schema):
    """`workflows`: how many are published; of each rule those that break it as they are."""

    workflows: int
    rules: list[HouseRuleOut]


@router.get("set-up/rules", response=HouseRulesOut)
def get_rules(request: AccountRequest, account: Path[str]) -> HouseRulesOut:
    require(request, "set-up")
    workflows = depending.published(request.account)
    kept = depending.house_rules(request.account, workflows)
    rules = [HouseRuleOut(name=one.name, broken=[*map(named, one.broken)]) for one in kept]
    return HouseRulesOut(workflows=len(workflows), rules=rules)


class ChangeOut(Schema):
    id: int
    at: str
    by: str
    area: str
    what: str
    old: str
    new: str


class ChangesOut(Schema):
    """`areas`: what can be asked for, by name, in words. `more`: whether older ones are there."""

    areas: dict[str, str]
    rows: list[ChangeOut]
    more: bool


@router.get("set-up/changes", response=ChangesOut)
def changes(
    request: AccountRequest,
    account: Path[str],
    q: Annotated[str, Query(max_length=80)] = "",
    area: Annotated[str, Query(max_length=20)] = "",
    page: Annotated[int, Query(ge=1, le=1_000)] = 1,
) -> ChangesOut:
    """What changed, the newest first."""
    require(request, "set-up")
    found = list(audit.entries(request.account, q, area)[(page - 1) * PAGE : page * PAGE + 1])
    return ChangesOut(
        areas={**audit.AREAS},
        rows=[
            ChangeOut(
                id=one.id,
                at=moment(one.at, request.account.zone),
                by=one.by_name,
                area=audit.AREAS.get(one.area, one.area),
                what=one.what,
                old=one.old,
                new=one.new,
            )
            for one in found[:PAGE]
        ],
        more=len(found) > PAGE,
    )
