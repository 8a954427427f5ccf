"""What is counted of a pipeline: how likely a deal is won from each stage, what the open ones will bring, how long they take."""

from datetime import date, datetime
from typing import NamedTuple

from django.db.models import Count, Q

from bluffside.core.statistics.share import Share, share
from bluffside.core.statistics.ways_to_end import Moment, ways_to_end
from bluffside.core.statistics.worth_to_come import Likelihood, OpenDeal, Worth, worth_to_come
from bluffside.server.pipeline.models import Deal, DealStay, Pipeline
from bluffside.server.practice.models import Account

MOST = 20_000  # deals, the newest
DAY = 86_400
WAYS = ("won", "lost")
FEW = 5  # deals still watched, below which a curve says nothing (common practice: it is cut where few are at risk)


def won_from(account: Account, pipeline: str = "") -> dict[tuple[str, str], Share]:
    """By pipeline and stage: of the closed deals that stood there once, how many were won."""
    rows = DealStay.objects.filter(account=account).exclude(deal__state=Deal.State.OPEN)
    if pipeline:
        rows = rows.filter(pipeline=pipeline)
    won = Count("deal", distinct=True, filter=Q(deal__state=Deal.State.WON))
    found = rows.values_list("pipeline", "stage").annotate(won=won, closed=Count("deal", distinct=True))
    return {(pipeline, stage): share(won, closed) for pipeline, stage, won, closed in found}


def likelihoods(pipeline: Pipeline) -> dict[str, Likelihood]:
    """By stage: as it was set, else as it was counted."""
    counted = won_from(pipeline.account, pipeline.name)
    found = {}
    for one in pipeline.stages.all():
        known = counted.get((pipeline.name, one.name), share(0, 0))
        found[one.name] = Likelihood(None if one.likely is None else one.likely / 100, known.count, known.of)
    return found


def open_in(pipeline: Pipeline) -> dict[str, int]:
    """By stage."""
    deals = Deal.objects.filter(account=pipeline.account, pipeline=pipeline.name, state=Deal.State.OPEN)
    return dict(deals.values_list("stage").annotate(n=Count("id")))


def to_come(pipeline: Pipeline, today: date) -> dict[str, Worth]:
    """By month ("2026-03"), "" for deals that nobody expects at any time, and "all". What was expected before counts for this
    month."""
    deals = Deal.objects.filter(account=pipeline.account, pipeline=pipeline.name, state=Deal.State.OPEN)
    rows = deals.order_by("-id").values_list("stage", "value", "expected_on")[:MOST]
    return worth_to_come(
        [
            OpenDeal(f"{max(expected, today):%Y-%m}" if expected else "", stage, float(value))
            for stage, value, expected in rows
        ],
        likelihoods(pipeline),
    )


class HowLong(NamedTuple):
    """`moments`: in days from when a deal was made, as long as enough deals were watched: until the day `watched`. `deals`: of how
    many."""

    moments: list[Moment]
    watched: float
    deals: int


def how_long(pipeline: Pipeline, now: datetime) -> HowLong:
    """Open ones count as not ended until now."""
    rows = Deal.objects.filter(account=pipeline.account, pipeline=pipeline.name).order_by("-id")
    lengths = [
        (max(0.0, ((closed or now) - made).total_seconds() / DAY), state if state in WAYS else "")
        for made, closed, state in rows.values_list("created_at", "closed_at", "state")[:MOST]
        if state not in WAYS or closed
    ]
    watched = sorted((days for days, _ in lengths), reverse=True)[FEW - 1] if len(lengths) >= FEW else 0.0
    moments = [one for one in ways_to_end(lengths, WAYS) if one.at <= watched]
    return HowLong(moments, watched, len(lengths))
