"""Writes on deals by people and the world: made, moved, closed, changed; and an act of moving taken back."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from decimal import Decimal
from typing import Any, Literal, NamedTuple
from uuid import UUID, uuid4

from django.db import transaction

from bluffside.core.words import several
from bluffside.server import sql
from bluffside.server.events.stream import WORLD, Cause, Happened, record
from bluffside.server.people.models import Contact
from bluffside.server.people.values import plain_value
from bluffside.server.pipeline import stays
from bluffside.server.pipeline.models import Deal, DealMove, Pipeline, Stage
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person

MOST = 1_000  # deals in one act
State = Literal["open", "won", "lost"]


class BadDeal(ValueError):
    """What is wrong, in words."""


class HasOne(BadDeal):
    """The contact has an open deal on that pipeline already: somebody is asked whether they mean another."""


def pipeline_of(account: Account, name: str) -> Pipeline:
    """Raises BadDeal."""
    found = Pipeline.objects.filter(account=account, name=name).first()
    if found is None:
        raise BadDeal(f"There is no pipeline “{name}”.")
    return found


def check_stage(account: Account, pipeline: str, stage: str) -> Stage:
    """Held until the transaction ends, so that nobody takes the stage out, or calls it otherwise, while a deal comes to it. Stages are
    held before deals, by all. Raises BadDeal when the account has no such pipeline, or that has no such stage."""
    stages = pipeline_of(account, pipeline).stages.select_for_update(of=("self",), no_key=True)
    found = stages.filter(name=stage).first()
    if found is None:
        raise BadDeal(f"The pipeline “{pipeline}” has no stage “{stage}”.")
    return found


NEEDS = {"value": "what it is worth", "owner": "whose it is", "expected_on": "when it is expected"}


def check_known(stage: Stage, deals: Sequence[Deal]) -> None:
    """Raises BadDeal when something that must be known before a deal enters the stage is not."""
    for deal in deals:
        missing = [
            NEEDS.get(one, f"“{one}”")
            for one in stage.needs
            if not (getattr(deal, one) if one in NEEDS else deal.fields.get(one) is not None)
        ]
        if missing:
            whose = f"“{deal.name}”" if deal.name else f"the deal of {deal.contact.name}"
            raise BadDeal(f"Before {whose} comes to “{stage.name}” it must be known {several(missing)}.")


@transaction.atomic
def create_deal(
    contact: Contact, pipeline: str, stage: str, name: str, value: Decimal = Decimal(0), cause: Cause = WORLD,
    owner: Person | None = None, although: bool = True,
) -> Deal:  # fmt: skip
    """`although`: also when they have an open one on that pipeline. Raises BadDeal, and HasOne."""
    into = check_stage(contact.account, pipeline, stage)
    Contact.objects.select_for_update().get(pk=contact.pk)  # two who make one at once are asked, too
    known = Deal.objects.filter(contact=contact, pipeline=pipeline, state=Deal.State.OPEN).first()
    if known and not although:
        raise HasOne(f"{contact.name} has “{known.name or known.stage}” open on {pipeline} already.")
    now = clock.now()
    deal = Deal(
        account=contact.account, contact=contact, ref=uuid4().hex, pipeline=pipeline, stage=stage,
        name=sql.plain(name).strip()[:200], value=value, owner=owner, created_at=now, since=now,
    )  # fmt: skip
    if cause.actor:
        check_known(into, [deal])
    deal.save()
    stays.follow(Deal.objects.filter(pk=deal.pk), now)
    data = {"deal": deal.ref, "pipeline": pipeline, "stage": stage, "name": deal.name}
    record(contact.account, [Happened("deal.created", contact.id, data, cause)])
    return deal


@transaction.atomic
def move_deal(deal: Deal, stage: str = "", state: State = "open", cause: Cause = WORLD, why: str = "") -> None:
    """To a stage (its own when empty), or closed there. Raises BadDeal."""
    known = Deal.objects.select_related("account").get(id=deal.id)
    check_stage(known.account, known.pipeline, stage or known.stage)
    row = Deal.objects.select_for_update(of=("self",)).select_related("account").get(id=deal.id)
    record(row.account, _moved([row], stage, state, why, cause))


def _moved(rows: Sequence[Deal], stage: str, state: State, why: str, cause: Cause) -> list[Happened]:
    """Writes locked deals where they go; answers what happened."""
    now, happened = clock.now(), []
    for row in rows:
        into = stage or row.stage
        kind = f"deal.{state}" if state not in (row.state, "open") else "stage.changed" if into != row.stage else ""
        data = {"deal": row.ref, "pipeline": row.pipeline, "stage": into, "old": row.stage, "name": row.name}
        if kind:
            happened.append(Happened(kind, row.contact_id, data, cause))
        if into != row.stage:
            row.since = now
        if state != row.state:
            row.closed_at = None if state == "open" else now
        row.stage, row.state, row.why = into, Deal.State(state), why[:80] if state == "lost" else ""
    Deal.objects.bulk_update(rows, ["stage", "state", "since", "closed_at", "why"])
    stays.follow(Deal.objects.filter(pk__in=[row.pk for row in rows]), now)
    return happened


class Act(NamedTuple):
    """Several deals moved at once: by which key it is taken back, and which moved."""

    key: UUID
    deals: list[Deal]


@transaction.atomic
def move_deals(account: Account, ids: Sequence[int], stage: str, state: State, by: Person, why: str = "") -> Act:
    """By one of the team; those that are there already stay as they are. Raises BadDeal, and then none has moved."""
    if len(ids) > MOST:
        raise BadDeal(f"At most {MOST:,} deals move at once.")
    meant = Deal.objects.filter(account=account, pk__in=ids)
    pipelines = sorted(set(meant.values_list("pipeline", flat=True))) if stage else []
    into = {pipeline: check_stage(account, pipeline, stage) for pipeline in pipelines}
    rows = list(meant.select_for_update(of=("self",)).order_by("pk"))
    if len(rows) < len(set(ids)):
        raise BadDeal("One of these deals is not here any more. Nothing was moved.")
    for pipeline, one in into.items():
        check_known(one, [row for row in rows if row.pipeline == pipeline and row.stage != stage])
    go = [row for row in rows if (stage or row.stage, state) != (row.stage, row.state)]
    act, now = uuid4(), clock.now()
    DealMove.objects.bulk_create(
        DealMove(
            account=account, deal=row, act=act, by=by, at=now, was_stage=row.stage, was_state=row.state,
            was_since=row.since, stage=stage or row.stage, state=state,
        )
        for row in go
    )  # fmt: skip
    record(account, _moved(go, stage, state, sql.plain(why).strip(), Cause(actor=by)))
    return Act(act, go)


@transaction.atomic
def take_back(account: Account, act: UUID, by: Person) -> list[DealMove]:
    """Puts the deals of an act back to where they were, with how long they had been there; those that went on since stay. Nothing
    starts by it. Answers the moves that were taken back."""
    moves = DealMove.objects.filter(account=account, act=act, taken_back_at=None)
    rows = moves.select_for_update(of=("self",)).select_related("deal").order_by("deal_id")
    deals = {row.pk: row for row in Deal.objects.select_for_update().filter(moves__in=list(rows)).order_by("pk")}
    known = set(Stage.objects.filter(account=account).values_list("pipeline__name", "name"))
    done = [
        one
        for one in rows
        if (deals[one.deal_id].stage, deals[one.deal_id].state) == (one.stage, one.state)
        and (deals[one.deal_id].pipeline, one.was_stage) in known  # where it was may have been taken out since
    ]
    happened = []
    for one in done:
        deal = deals[one.deal_id]
        data = {
            "deal": deal.ref,
            "pipeline": deal.pipeline,
            "stage": one.was_stage,
            "old": deal.stage,
            "name": deal.name,
        }
        happened.append(Happened("deal.put_back", deal.contact_id, data, Cause(actor=by)))
        deal.stage, deal.state, deal.since, deal.why = one.was_stage, Deal.State(one.was_state), one.was_since, ""
        deal.closed_at = None if one.was_state == "open" else deal.closed_at
        one.taken_back_at = clock.now()
    Deal.objects.bulk_update([deals[one.deal_id] for one in done], ["stage", "state", "since", "closed_at", "why"])
    DealMove.objects.bulk_update(done, ["taken_back_at"])
    stays.undo(done, clock.now())
    record(account, happened)
    return done


CHANGES = ("name", "value", "expected_on", "owner", "fields")


@transaction.atomic
def change_deal(deal: Deal, given: Mapping[str, Any], by: Person) -> Deal:
    """`given`: any of CHANGES; `fields`: of the account's own for deals, by name, typed (None: empty)."""
    row = Deal.objects.select_for_update(of=("self",)).select_related("account").get(id=deal.id)
    changed = []
    if "fields" in given:
        anew = row.fields | {name: plain_value(value) for name, value in given["fields"].items()}
        given = {**given, "fields": {name: value for name, value in anew.items() if value not in (None, [])}}
    for name in CHANGES:
        if name in given and getattr(row, name) != given[name]:
            setattr(row, name, sql.plain(given[name]).strip()[:200] if name == "name" else given[name])
            changed.append(name)
    if changed:
        row.save(update_fields=changed)
        data = {"deal": row.ref, "pipeline": row.pipeline, "name": row.name, "fields": changed}
        record(row.account, [Happened("deal.changed", row.contact_id, data, Cause(actor=by))])
    return row


def rests_too_long(stage: Stage, since: datetime, now: datetime) -> int:
    """By how many whole days a deal rests longer at a stage than it may; 0: not at all."""
    if stage.rest_days is None:
        return 0
    return max(0, (now - since).days - stage.rest_days)


def give_way(account: Account, stays: int, goes: int) -> None:
    """Before two contacts become one: a deal by whose name one of who stays is known gets another."""
    theirs = Deal.objects.filter(account=account, contact_id=stays).values_list("ref", flat=True)
    for deal in Deal.objects.filter(account=account, contact_id=goes, ref__in=list(theirs)):
        deal.ref = f"{deal.ref[:60]}{renamed_of(goes)}"
        deal.save(update_fields=["ref"])


def renamed_of(contact_id: int) -> str:
    """What is added to the name of a deal, taken over from a contact, that another has already."""
    return f"-of-{contact_id}"
