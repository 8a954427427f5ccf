"""Deals as a list: open, won or lost, sorted by any figure; and ways of looking at deals that are kept under a name."""

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from decimal import Decimal
from typing import Any, Literal

from django.shortcuts import get_object_or_404
from ninja import Path, Query, Router, Schema
from ninja.errors import HttpError
from pydantic import BaseModel, Field

from bluffside.core.engine.turn import NEVER
from bluffside.core.timing.local import to_local
from bluffside.server import sql
from bluffside.server.deals import tide
from bluffside.server.deals.api import DealOwnerOut, NextOut, Shown, next_out, pipeline_called, segments_of, team_of
from bluffside.server.deals.next_up import NOTHING, last_of, next_of
from bluffside.server.pipeline.models import Deal, DealView
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.naming import free_name
from bluffside.server.segments import choosing
from bluffside.server.segments.choosing import Chosen

router = Router(tags=["deals"], auth=InAccount())
PAGE = 100
MOST_VIEWS = 50
Sort = Literal["next", "contact", "name", "stage", "value", "days", "expected_on", "owner", "closed_at"]
ListedState = Literal["open", "won", "lost"]


class ListedDealOut(BaseModel):
    id: int
    contact_id: int
    contact: str
    name: str
    value: Decimal
    stage: str
    state: ListedState
    owner: str
    days: int
    over: int
    expected_on: date | None
    closed_on: date | None
    why: str
    next: NextOut


class ListedDealsOut(BaseModel):
    """`count`, `worth`: of all that fit; `page` from 1."""

    pipelines: list[str]
    pipeline: str
    deals: list[ListedDealOut]
    count: int
    worth: Decimal
    page: int
    pages: int
    nothing: int
    longer: int
    mine: int
    owners: list[DealOwnerOut]
    segments: list[str]
    currency: str
    me: int


class CountedDealsOut(Schema):
    count: int


class DealViewOut(Schema):
    id: int
    name: str
    asks: dict[str, str]


class DealViewIn(Schema):
    name: str = Field(min_length=1, max_length=80)
    asks: dict[str, str] = Field(max_length=12)


def _keys(owners: dict[int, str], stages: list[str]) -> dict[str, Callable[[tide.Standing], Any]]:
    order = {name: number for number, name in enumerate(stages)}
    return {
        "next": lambda one: one.next.at or NEVER,
        "contact": lambda one: one.deal.contact.casefold(),
        "name": lambda one: one.deal.name.casefold(),
        "stage": lambda one: order.get(one.deal.stage, 99),
        "value": lambda one: one.deal.value,
        "days": lambda one: one.days,
        "expected_on": lambda one: one.deal.expected_on or date.max,
        "owner": lambda one: owners.get(one.deal.owner_id or 0, "").casefold(),
        "closed_at": lambda one: one.deal.closed_at or NEVER,
    }


@router.get("deals/list", response=ListedDealsOut)
def listed(
    request: AccountRequest, account: Path[str], which: Query[Shown], state: ListedState = "open", stage: str = "",
    sort: Sort = "next", down: bool = False, page: int = 1,
) -> ListedDealsOut:  # fmt: skip
    """`down`: the highest first."""
    own, now = request.account, clock.now()
    names, chosen = pipeline_called(request, which.pipeline)
    owners = {one.pk: one.name for one in team_of(own)}
    standing: list[tide.Standing] = []
    nothing = longer = mine = 0
    if chosen:
        rows = Deal.objects.filter(account=own, pipeline=chosen.name, state=state).order_by("-closed_at", "pk")
        some = tide.known(rows[: tide.MOST])
        stages = tide.stages_of(chosen, some)
        coming = next_of(own, some, now) if state == "open" else {}
        all_ = [tide.standing_of(one, coming.get(one.id, NOTHING), stages[one.stage], now) for one in some]
        wanted = which.filter(own)
        if state != "open":
            wanted = replace(wanted, only="")
        standing = [one for one in all_ if tide.fits(one, wanted) and stage in ("", one.deal.stage)]
        # Whatever is shown, how many of all there are: the page's own words for what is looked for most.
        nothing, longer = sum(one.next.at is None for one in all_), sum(one.over > 0 for one in all_)
        mine = sum(one.deal.owner_id == request.person.pk for one in all_)
        standing.sort(key=_keys(owners, list(stages))[sort], reverse=down)
    pages = max(1, -(-len(standing) // PAGE))
    page = min(max(page, 1), pages)
    shown, today = standing[(page - 1) * PAGE : page * PAGE], to_local(now, own.zone).date()
    last = last_of(own, {one.deal.contact_id for one in shown if one.next.at is None}) if state == "open" else {}
    return ListedDealsOut(
        pipelines=names, pipeline=chosen.name if chosen else "", count=len(standing), page=page, pages=pages,
        worth=sum((one.deal.value for one in standing), Decimal(0)), nothing=nothing, longer=longer, mine=mine,
        owners=[DealOwnerOut(id=id, name=name) for id, name in owners.items()], segments=segments_of(own), currency=own.currency, me=request.person.pk,
        deals=[
            ListedDealOut(
                id=one.deal.id, contact_id=one.deal.contact_id, contact=one.deal.contact, name=one.deal.name, value=one.deal.value,
                stage=one.deal.stage, state=state, owner=owners.get(one.deal.owner_id or 0, ""), days=one.days, over=one.over,
                expected_on=one.deal.expected_on, why=one.deal.why,
                closed_on=to_local(one.deal.closed_at, own.zone).date() if one.deal.closed_at else None,
                next=next_out(one.next, own, today, last.get(one.deal.contact_id)),
            )
            for one in shown
        ],
    )  # fmt: skip


@router.post("deals/count", response=CountedDealsOut)
def count_deals(request: AccountRequest, account: Path[str], who: Chosen) -> CountedDealsOut:
    """How many deals its segment and condition find, whatever has become of them, on all pipelines."""
    return CountedDealsOut(count=choosing.deals(request.account, who).count())


@router.get("deals/views", response=list[DealViewOut])
def views(request: AccountRequest, account: Path[str]) -> list[DealViewOut]:
    rows = DealView.objects.filter(account=request.account).order_by("name")
    return [DealViewOut(id=one.pk, name=one.name, asks=one.asks) for one in rows]


@router.post("deals/views", response={201: list[DealViewOut]})
def keep_view(request: AccountRequest, account: Path[str], given: DealViewIn) -> tuple[int, list[DealViewOut]]:
    require(request, "people")
    if DealView.objects.filter(account=request.account).count() >= MOST_VIEWS:
        raise HttpError(422, f"{MOST_VIEWS} views are kept at most. Take one away first.")
    asks = {sql.plain(name)[:20]: sql.plain(value)[:80] for name, value in given.asks.items()}
    name = free_name(DealView, "view", request.account, given.name)[:80]
    DealView.objects.create(account=request.account, name=name, asks=asks)
    return 201, views(request, account)


@router.delete("deals/views/{int:view_id}", response=list[DealViewOut])
def drop_view(request: AccountRequest, account: Path[str], view_id: int) -> list[DealViewOut]:
    require(request, "people")
    get_object_or_404(DealView, account=request.account, pk=view_id).delete()
    return views(request, account)
