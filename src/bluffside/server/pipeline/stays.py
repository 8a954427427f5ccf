"""Which stages deals stood in, from when until when: kept beside the deals by whatever writes them, so that stages can be counted."""

from datetime import datetime, timedelta

from django.db import transaction
from django.db.models import QuerySet

from bluffside.server.events.stream import Happened, record
from bluffside.server.pipeline.models import Deal, DealMove, DealStay, Stage
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account

BATCH = 500


def follow(deals: QuerySet[Deal], now: datetime) -> None:
    """After deals were made, moved, closed or opened again: whoever left a stage left it now, whoever came came now."""
    stands = {one.deal_id: one for one in DealStay.objects.filter(deal__in=deals, left_at=None)}
    came, left = [], []
    columns = ("id", "account_id", "pipeline", "stage", "state")
    for id, account_id, pipeline, stage, state in deals.values_list(*columns):
        stay, is_open = stands.get(id), state == Deal.State.OPEN
        stays = stay is not None and is_open and (stay.pipeline, stay.stage) == (pipeline, stage)
        if stay and not stays:
            left.append(stay.pk)
        if is_open and not stays:
            came.append(DealStay(account_id=account_id, deal_id=id, pipeline=pipeline, stage=stage, came_at=now))
    DealStay.objects.filter(pk__in=left).update(left_at=now, rests_until=None)
    if came:
        stages = Stage.objects.filter(account=came[0].account_id, rest_days__isnull=False)
        rests = {
            (pipeline, name): days for pipeline, name, days in stages.values_list("pipeline__name", "name", "rest_days")
        }
        for one in came:
            one.rests_until = too_long_at(now, rests.get((one.pipeline, one.stage)))
    DealStay.objects.bulk_create(came)


def too_long_at(came: datetime, rest_days: int | None) -> datetime | None:
    """As `services.rests_too_long` counts: whole days."""
    return None if rest_days is None else came + timedelta(days=rest_days + 1)


def may_rest(stage: Stage, now: datetime) -> None:
    """After it was set how long deals may rest there: who does so too long by that already is not told of."""
    stays = DealStay.objects.filter(account=stage.account, pipeline=stage.pipeline.name, stage=stage.name, left_at=None)
    rows = list(stays)
    for one in rows:
        at = too_long_at(one.came_at, stage.rest_days)
        one.rests_until = at if at and at > now else None
    DealStay.objects.bulk_update(rows, ["rests_until"], batch_size=1_000)


def resting_batch(account: Account) -> int:
    """Tells of deals that have rested too long, once each; answers how many."""
    with transaction.atomic():
        late = DealStay.objects.filter(account=account, rests_until__lte=clock.now()).order_by("rests_until", "pk")
        some = list(late.select_for_update(of=("self",), skip_locked=True).select_related("deal")[:BATCH])
        happened = [
            Happened(
                "deal.rested",
                one.deal.contact_id,
                {"deal": one.deal.ref, "pipeline": one.pipeline, "stage": one.stage, "name": one.deal.name},
            )
            for one in some
        ]
        DealStay.objects.filter(pk__in=[one.pk for one in some]).update(rests_until=None)
        record(account, happened)
    return len(some)


def undo(moves: list[DealMove], now: datetime) -> None:
    """After moves were taken back: as if they had never been."""
    for one in moves:
        DealStay.objects.filter(deal=one.deal_id, came_at=one.at, left_at=None).delete()
        DealStay.objects.filter(deal=one.deal_id, left_at=one.at).update(left_at=None)
    follow(Deal.objects.filter(pk__in=[one.deal_id for one in moves]), now)
