"""Writes on deals by people and the world."""

from decimal import Decimal
from typing import Literal
from uuid import uuid4

from django.db import transaction

from bluffside.server.events.stream import WORLD, Cause, Happened, record
from bluffside.server.people.models import Contact
from bluffside.server.pipeline.models import Deal, Pipeline
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account


class BadDeal(ValueError):
    """What is wrong, in words."""


def check_stage(account: Account, pipeline: str, stage: str) -> None:
    """Raises BadDeal when the account has no such pipeline, or that has no such stage."""
    found = Pipeline.objects.filter(account=account, name=pipeline).first()
    if found is None:
        raise BadDeal(f"There is no pipeline “{pipeline}”.")
    if stage not in found.stages:
        raise BadDeal(f"The pipeline “{pipeline}” has no stage “{stage}”.")


@transaction.atomic
def create_deal(
    contact: Contact, pipeline: str, stage: str, name: str, value: Decimal = Decimal(0), cause: Cause = WORLD
) -> Deal:
    """Raises BadDeal."""
    check_stage(contact.account, pipeline, stage)
    now = clock.now()
    deal = Deal.objects.create(
        account=contact.account,
        contact=contact,
        ref=uuid4().hex,
        pipeline=pipeline,
        stage=stage,
        name=name[:200],
        value=value,
        created_at=now,
        since=now,
    )
    data = {"deal": deal.ref, "pipeline": pipeline, "stage": stage, "name": deal.name}
    record(contact.account, [Happened("deal.created", contact.id, data, cause)])
    return deal


@transaction.atomic
def move_deal(
    deal: Deal, stage: str = "", state: Literal["open", "won", "lost"] = "open", cause: Cause = WORLD
) -> None:
    """To a stage (its own when empty), or closed there. Raises BadDeal."""
    row = Deal.objects.select_for_update(of=("self",)).select_related("account").get(id=deal.id)
    stage = stage or row.stage
    check_stage(row.account, row.pipeline, stage)
    data = {"deal": row.ref, "pipeline": row.pipeline, "stage": stage, "old": row.stage, "name": row.name}
    if state != row.state and state != "open":
        kind = f"deal.{state}"
    elif stage != row.stage:
        kind = "stage.changed"
    else:
        kind = ""
    if stage != row.stage:
        row.since = clock.now()
    row.stage, row.state = stage, Deal.State(state)
    row.save(update_fields=["stage", "state", "since"])
    if kind:
        record(row.account, [Happened(kind, row.contact_id, data, cause)])


def give_way(account: Account, stays: int, goes: int) -> None:
    """Before two contacts become one: a deal by whose name one of who stays is known gets another."""
    theirs = Deal.objects.filter(account=account, contact_id=stays).values_list("ref", flat=True)
    for deal in Deal.objects.filter(account=account, contact_id=goes, ref__in=list(theirs)):
        deal.ref = f"{deal.ref[:60]}-of-{goes}"
        deal.save(update_fields=["ref"])
