"""A contact's deals, each with what happens next, and who moved it when."""

from datetime import date, datetime, timedelta
from decimal import Decimal

from ninja import Path, Router, Schema

from bluffside.core.timing.local import to_local
from bluffside.server.deals.api import DealOwnerOut, DealState, NextOut, next_out, team_of
from bluffside.server.deals.next_up import NOTHING, last_of, next_of
from bluffside.server.people.api import contact_of
from bluffside.server.pipeline.models import Deal, DealMove, Pipeline
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount
from bluffside.server.practice.words import moment

router = Router(tags=["deals"], auth=InAccount())
MOST = 50  # deals, and moves of one


class DealMoveOut(Schema):
    """`by` whom of the team; `back`: it was taken back."""

    at: str
    by: str
    out_of: str
    stage: str
    state: DealState
    back: bool


class ContactDealOut(Schema):
    """`stages`: those of its pipeline, in their order; `reasons`: why deals on it are lost; `why` this one was."""

    id: int
    name: str
    value: Decimal
    pipeline: str
    stage: str
    state: DealState
    why: str
    owner: int | None
    expected_on: date | None
    made: str
    days: int
    next: NextOut
    stages: list[str]
    reasons: list[str]
    moves: list[DealMoveOut]


class ContactDealsOut(Schema):
    """`pipeline`, `stages`: where a new one begins."""

    deals: list[ContactDealOut]
    owners: list[DealOwnerOut]
    currency: str
    pipeline: str
    stages: list[str]


@router.get("contacts/{int:contact_id}/deals", response=ContactDealsOut)
def deals_of(request: AccountRequest, account: Path[str], contact_id: int) -> ContactDealsOut:
    """Open ones first, the newest of each first."""
    contact, own, now = contact_of(request, contact_id), request.account, clock.now()
    rows = list(Deal.objects.filter(account=own, contact=contact).order_by("-id")[:MOST])
    rows.sort(key=lambda one: one.state != Deal.State.OPEN)
    pipelines = list(Pipeline.objects.filter(account=own).prefetch_related("stages").order_by("id"))
    by_name = {one.name: one for one in pipelines}
    stages = {one.name: [stage.name for stage in one.stages.all()] for one in pipelines}
    coming = next_of(own, [one for one in rows if one.state == Deal.State.OPEN], now)
    last, today = last_of(own, [contact.pk]), to_local(now, own.zone).date()
    return ContactDealsOut(
        owners=[DealOwnerOut(id=one.pk, name=one.name) for one in team_of(own)], currency=own.currency,
        pipeline=pipelines[0].name if pipelines else "", stages=stages[pipelines[0].name] if pipelines else [],
        deals=[
            ContactDealOut(
                id=one.pk, name=one.name, value=one.value, pipeline=one.pipeline, stage=one.stage, state=DEAL_STATE[one.state],
                why=one.why, owner=one.owner_id, expected_on=one.expected_on, made=moment(one.created_at, own.zone),
                days=_days(one.since, now), next=next_out(coming.get(one.pk, NOTHING), own, today, last.get(contact.pk)),
                stages=stages.get(one.pipeline, [one.stage]),
                reasons=by_name[one.pipeline].reasons if one.pipeline in by_name else [],
                moves=_moves(one, own.zone),
            )
            for one in rows
        ],
    )  # fmt: skip


DEAL_STATE: dict[str, DealState] = {"open": "open", "won": "won", "lost": "lost"}


def _days(since: datetime, now: datetime) -> int:
    return max(timedelta(), now - since).days


def _moves(deal: Deal, zone: str) -> list[DealMoveOut]:
    """By people; what workflows did stands in the history."""
    rows = DealMove.objects.filter(deal=deal).select_related("by").order_by("-at", "-id")[:MOST]
    return [
        DealMoveOut(
            at=moment(one.at, zone), by=one.by.name, out_of=one.was_stage, stage=one.stage, state=DEAL_STATE[one.state],
            back=one.taken_back_at is not None,
        )
        for one in rows
    ]  # fmt: skip
