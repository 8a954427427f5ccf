"""What the open deals of a pipeline will bring, and how long a deal takes."""

from ninja import Path, Router, Schema

from bluffside.core.statistics.ways_to_end import Moment, reached_by
from bluffside.core.statistics.worth_to_come import SURE, Worth
from bluffside.core.timing.local import to_local
from bluffside.server.deals.api import pipeline_called
from bluffside.server.pipeline import counting
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount
from bluffside.server.throttled_cache import lately

router = Router(tags=["deals"], auth=InAccount())
TOLD_AT = (7, 14, 30, 60, 90, 180, 365)  # days, and the last on which enough deals were watched
MOST_STEPS = 300


class WorthOut(Schema):
    """`month` as 2026-03; "" for no date. `open`: if all of them were won; `low` to `high` in `sure` of a hundred cases."""

    month: str
    deals: int
    open: float
    likely: float
    low: float
    high: float


class LikelyOut(Schema):
    """`set` by hand, of a hundred; counted: `won` of `closed` that stood there once. Of a stage that has neither nothing is known."""

    stage: str
    open: int
    set: int | None
    won: int
    closed: int
    value: float | None


class ReachedOut(Schema):
    value: float
    low: float
    high: float


class MomentOut(Schema):
    """After so many days: of a hundred deals so many are won, lost, and still open."""

    days: float
    at_risk: int
    open: float
    won: ReachedOut
    lost: ReachedOut


class ComingOut(Schema):
    """`left_out`: open deals in stages of which nothing is known; `told`: at round numbers of days; `steps`: wherever it changes."""

    pipelines: list[str]
    pipeline: str
    currency: str
    sure: int
    all: WorthOut | None
    months: list[WorthOut]
    stages: list[LikelyOut]
    left_out: int
    deals: int
    told: list[MomentOut]
    steps: list[MomentOut]


@router.get("deals/coming", response=ComingOut)
def coming(request: AccountRequest, account: Path[str], pipeline: str = "") -> ComingOut:
    own, now = request.account, clock.now()
    names, chosen = pipeline_called(request, pipeline)
    if chosen is None:
        return ComingOut(
            pipelines=names, pipeline="", currency=own.currency, sure=SURE, all=None, months=[], stages=[], left_out=0,
            deals=0, told=[], steps=[],
        )  # fmt: skip
    today = to_local(now, own.zone).date()
    worth = lately(("coming", own.pk, chosen.pk, today), lambda: counting.to_come(chosen, today))
    long = lately(("how long", own.pk, chosen.pk), lambda: counting.how_long(chosen, now))
    known, is_open = counting.likelihoods(chosen), counting.open_in(chosen)
    told = [(days, reached_by(long.moments, days)) for days in (*TOLD_AT, int(long.watched)) if days <= long.watched]
    every = max(1, len(long.moments) // MOST_STEPS)
    return ComingOut(
        pipelines=names, pipeline=chosen.name, currency=own.currency, sure=SURE,
        all=_worth("", worth["all"]) if worth else None,
        months=[_worth(month, one) for month, one in sorted(worth.items(), key=_last_without) if month != "all"],
        stages=[
            LikelyOut(
                stage=one.name, open=is_open.get(one.name, 0), set=one.likely, won=known[one.name].won,
                closed=known[one.name].closed, value=known[one.name].value,
            )
            for one in chosen.stages.all()
        ],
        left_out=sum(count for stage, count in is_open.items() if stage not in known or known[stage].value is None),
        deals=long.deals,
        told=[_moment(days, one) for days, one in dict(told).items() if one],
        steps=[_moment(one.at, one) for one in long.moments[::every]],
    )  # fmt: skip


def _last_without(named: tuple[str, Worth]) -> tuple[bool, str]:
    return not named[0], named[0]


def _worth(month: str, one: Worth) -> WorthOut:
    return WorthOut(month=month, **one._asdict())


def _moment(days: float, one: Moment) -> MomentOut:
    ways = {way: ReachedOut(value=each.value, low=each.low, high=each.high) for way, each in one.ways.items()}
    return MomentOut(days=round(days, 2), at_risk=one.at_risk, open=one.open, won=ways["won"], lost=ways["lost"])
