"""Deals: the table of a pipeline, making, moving, closing, changing them, and taking an act back."""

from datetime import date, datetime, time
from decimal import Decimal
from typing import Literal
from uuid import UUID

from django.db.models import Count, Sum
from django.http import Http404
from ninja import Path, Query, Router, Schema
from ninja.errors import HttpError
from pydantic import BaseModel, Field

from bluffside.core.engine.turn import NEVER
from bluffside.core.timing.local import at_time, to_local
from bluffside.server.deals import tide
from bluffside.server.deals.next_up import Next, last_of
from bluffside.server.deals.taking_back import take_back_act
from bluffside.server.events.stream import Cause
from bluffside.server.people.api import contact_of
from bluffside.server.pipeline import services
from bluffside.server.pipeline.models import Deal, Pipeline
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.models import Account, Person
from bluffside.server.segments import choosing
from bluffside.server.segments.choosing import Chosen
from bluffside.server.segments.models import Segment

router = Router(tags=["deals"], auth=InAccount())
WHOLE = 300  # of a cell that is opened
DealState = Literal["open", "won", "lost"]


class NextOut(BaseModel):
    """`at`: local; None: nothing, or no end. `who` of the team is to act; `workflow`: which goes on by itself; `last`: with nothing
    next, who wrote last ("" for the contact), and when."""

    sort: Literal["nothing", "task", "answer", "appointment", "waits", "goes on"]
    at: datetime | None
    late_days: int
    who: str
    words: str
    workflow: int
    last: str
    last_at: datetime | None


class DealOut(BaseModel):  # not ninja's: its validator takes ten times as long
    id: int
    contact_id: int
    contact: str
    name: str
    value: Decimal
    stage: str
    owner: int | None
    days: int
    over: int
    next: NextOut


class CellOut(BaseModel):
    """`more`: how many of it are not shown, and what they are worth."""

    stage: str
    deals: list[DealOut]
    more: int
    more_worth: Decimal


class RowOut(BaseModel):
    """`first`, `last`: the local days it is of; None: no such day."""

    row: Literal["nothing", "late", "today", "tomorrow", "week", "later"]
    first: date | None
    last: date | None
    count: int
    worth: Decimal
    cells: list[CellOut]


class ColumnOut(BaseModel):
    name: str
    means: str
    rest_days: int | None
    count: int
    worth: Decimal
    longer: int


class ClosedOut(BaseModel):
    count: int
    worth: Decimal


class DealOwnerOut(BaseModel):
    id: int
    name: str


class DealsOut(Schema):
    """`pipelines`: the names of all; `nothing`, `longer`, `mine`: how many of all that are open on this one, whatever is shown."""

    pipelines: list[str]
    pipeline: str
    columns: list[ColumnOut]
    rows: list[RowOut]
    count: int
    worth: Decimal
    won: ClosedOut
    lost: ClosedOut
    nothing: int
    longer: int
    mine: int
    reasons: list[str]
    owners: list[DealOwnerOut]
    segments: list[str]
    currency: str
    me: int


class NewDealIn(Schema):
    """`although`: also when they have an open one there."""

    contact_id: int
    pipeline: str = Field(max_length=80)
    stage: str = Field(max_length=80)
    name: str = Field(default="", max_length=200)
    value: Decimal = Field(default=Decimal(0), ge=0, le=10**11)
    although: bool = False


class DealMadeOut(Schema):
    """`asks`: nothing was made: they have one already, and it is asked whether another is meant."""

    id: int = 0
    asks: str = ""


class MoveDealsIn(Schema):
    """`stage`: "" for where each is; `why`: for what reason they are lost."""

    deals: list[int] = Field(min_length=1, max_length=services.MOST)
    stage: str = Field(default="", max_length=80)
    state: DealState = "open"
    why: str = Field(default="", max_length=80)


class MovedDealsOut(Schema):
    """`act`: by which it is taken back."""

    act: UUID
    moved: int


class TakenBackOut(Schema):
    """`stays`: what workflows sent meanwhile, in words, which nothing takes back; `left`: how many had gone on since, and stay."""

    taken_back: int
    left: int
    stays: list[str]


def pipeline_called(request: AccountRequest, name: str) -> tuple[list[str], Pipeline | None]:
    """The names of all, and the one that is meant: the first where none is named. 404."""
    found = list(Pipeline.objects.select_related("account").filter(account=request.account).order_by("id"))
    chosen = next((one for one in found if name in ("", one.name)), None)
    if name and chosen is None:
        raise Http404
    return [one.name for one in found], chosen


def team_of(account: Account) -> list[Person]:
    people = Person.objects.filter(memberships__account=account, is_active=True).exclude(memberships__role="viewer")
    return list(people.distinct().order_by("name"))


class Shown(Schema):
    """Which deals: of the account's first pipeline unless one is named; `whose`: 0 for nobody's; `segment`: for which its
    condition holds."""

    pipeline: str = ""
    whose: int | None = None
    least: Decimal = Decimal(0)
    only: Literal["", "nothing", "long"] = ""
    segment: str = Field(default="", max_length=120)

    def filter(self, account: Account) -> tide.Filter:
        """Raises HttpError (422) when there is no such segment any more."""
        who = Chosen(segment=self.segment)
        among = frozenset(choosing.deals(account, who).values_list("id", flat=True)) if self.segment else None
        return tide.Filter(self.whose, self.least, self.only, among)


def segments_of(account: Account) -> list[str]:
    return list(Segment.objects.filter(account=account).order_by("name").values_list("name", flat=True))


@router.get("deals", response=DealsOut)
def deals(request: AccountRequest, account: Path[str], which: Query[Shown], whole: str = "") -> DealsOut:
    """`whole`: a cell to be shown whole, as "<row>/<stage>"."""
    own, now = request.account, clock.now()
    names, chosen = pipeline_called(request, which.pipeline)
    owners = [DealOwnerOut(id=one.pk, name=one.name) for one in team_of(own)]
    none = ClosedOut(count=0, worth=Decimal(0))
    if chosen is None:
        return DealsOut(
            pipelines=[], pipeline="", columns=[], rows=[], count=0, worth=Decimal(0), won=none, lost=none, nothing=0,
            longer=0, mine=0, reasons=[], owners=owners, segments=segments_of(own), currency=own.currency, me=request.person.pk,
        )  # fmt: skip
    found = tide.tide(own, chosen, which.filter(own), request.person.pk, now)
    today = to_local(now, own.zone).date()
    shown = {
        key: one.some[: WHOLE if whole == f"{key[0]}/{key[1]}" else tide.SHOWN] for key, one in found.cells.items()
    }
    last = last_of(own, {one.deal.contact_id for some in shown.values() for one in some if one.next.at is None})
    days = tide.days_of(today)
    rows = []
    for row in tide.ROWS:
        total = found.rows[row]
        if not total.count:
            continue
        cells = []
        for stage in found.stages:
            some, cell = shown.get((row, stage.name), []), found.cells.get((row, stage.name), tide.Sum())
            worth = cell.worth - sum((one.deal.value for one in some), Decimal(0))
            outs = [_deal_out(one, own, today, last) for one in some]
            cells.append(CellOut(stage=stage.name, deals=outs, more=cell.count - len(some), more_worth=worth))
        first, until = days.get(row, (None, None))
        rows.append(RowOut(row=row, first=first, last=until, count=total.count, worth=total.worth, cells=cells))
    columns = [(stage, found.columns[stage.name]) for stage in found.stages]
    return DealsOut(
        pipelines=names, pipeline=chosen.name, rows=rows, reasons=chosen.reasons, owners=owners, segments=segments_of(own), currency=own.currency, me=request.person.pk,
        columns=[
            ColumnOut(
                name=stage.name, means=stage.means, rest_days=stage.rest_days, count=one.count, worth=one.worth, longer=one.longer
            )
            for stage, one in columns
        ],
        count=sum(one.count for _, one in columns), worth=sum((one.worth for _, one in columns), Decimal(0)),
        won=_closed(chosen, "won", today), lost=_closed(chosen, "lost", today),
        nothing=found.nothing, longer=found.longer, mine=found.mine,
    )  # fmt: skip


def _deal_out(one: tide.Standing, own: Account, today: date, last: dict[int, tuple[str, datetime]]) -> DealOut:
    deal = one.deal
    return DealOut(
        id=deal.id, contact_id=deal.contact_id, contact=deal.contact, name=deal.name, value=deal.value,
        stage=deal.stage, owner=deal.owner_id, days=one.days, over=one.over,
        next=next_out(one.next, own, today, last.get(deal.contact_id)),
    )  # fmt: skip


def next_out(coming: Next, own: Account, today: date, last: tuple[str, datetime] | None) -> NextOut:
    """`last`: the last word that was exchanged (next_up.last_of)."""
    local = to_local(coming.at, own.zone) if coming.at and coming.at < NEVER else None
    wrote, when = last if last and coming.at is None else ("", None)
    return NextOut(
        sort=coming.sort, at=local and local.replace(tzinfo=None), late_days=max(0, (today - local.date()).days) if local else 0,
        who=coming.who, words=coming.words, workflow=coming.workflow, last=wrote,
        last_at=to_local(when, own.zone).replace(tzinfo=None) if when else None,
    )  # fmt: skip


def _closed(pipeline: Pipeline, state: str, today: date) -> ClosedOut:
    """This month."""
    begin = at_time(today.replace(day=1), time(), pipeline.account.zone)
    rows = Deal.objects.filter(
        account=pipeline.account, pipeline=pipeline.name, state=state, closed_at__gte=begin
    ).aggregate(count=Count("id"), worth=Sum("value"))
    return ClosedOut(count=rows["count"], worth=rows["worth"] or Decimal(0))


@router.post("deals", response={200: DealMadeOut, 201: DealMadeOut})
def new_deal(request: AccountRequest, account: Path[str], given: NewDealIn) -> tuple[int, DealMadeOut]:
    require(request, "people")
    contact = contact_of(request, given.contact_id)
    try:
        made = services.create_deal(
            contact, given.pipeline, given.stage, given.name, given.value, Cause(actor=request.person),
            owner=request.person if request.role != "consultant" else contact.responsible, although=given.although,
        )  # fmt: skip
    except services.HasOne as error:
        return 200, DealMadeOut(asks=str(error))
    except services.BadDeal as error:
        raise HttpError(422, f"{error} Nothing was made.") from None
    return 201, DealMadeOut(id=made.pk)


@router.post("deals/move", response=MovedDealsOut)
def move(request: AccountRequest, account: Path[str], given: MoveDealsIn) -> MovedDealsOut:
    require(request, "people")
    try:
        act = services.move_deals(request.account, given.deals, given.stage, given.state, request.person, given.why)
    except services.BadDeal as error:
        raise HttpError(409, str(error)) from None
    return MovedDealsOut(act=act.key, moved=len(act.deals))


@router.post("deals/acts/{uuid:moved}/take-back", response=TakenBackOut)
def take_back(request: AccountRequest, account: Path[str], moved: UUID) -> TakenBackOut:
    """Whoever is in a workflow by it leaves it; what was sent stays sent, and is said."""
    require(request, "people")
    stays, back, left = take_back_act(request.account, moved, request.person)
    if not back and not left:
        raise HttpError(404, "There is nothing to take back any more.")
    return TakenBackOut(taken_back=back, left=left, stays=stays)
