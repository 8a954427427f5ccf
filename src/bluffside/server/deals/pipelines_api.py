"""Pipelines and their stages as Set-up has them."""

from collections import Counter

from django.db.models import Count, Q
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.statistics.share import share
from bluffside.server.people.field_kinds import Kind
from bluffside.server.people.sorting import Each
from bluffside.server.pipeline import about, counting, stages
from bluffside.server.pipeline.models import Deal, DealField, Pipeline, Stage
from bluffside.server.pipeline.services import NEEDS, BadDeal
from bluffside.server.practice.access import AccountRequest, InAccount, require

router = Router(tags=["deals"], auth=InAccount())


class StageOut(Schema):
    """`deals`: open ones that stand in it; `rest_days`: how long one may; None: as long as it likes. `likely`: of a hundred deals so
    many are thought to be won from here; None: as counted, `won` of `closed` that stood here once. `needs`: what must be known
    before, by the names of `NeedOut`."""

    id: int
    name: str
    means: str
    rest_days: int | None
    likely: int | None
    won: int
    closed: int
    needs: list[str]
    deals: int


class NeedOut(Schema):
    """What may have to be known of a deal, in words."""

    name: str
    words: str


class DealFieldOut(Schema):
    """`filled`: how many deals have a value."""

    id: int
    name: str
    kind: str
    choices: list[str]
    filled: int


class DealFieldIn(Schema):
    name: str = Field(min_length=1, max_length=80)
    kind: Kind = "text"
    choices: list[str] = Field(default=[], max_length=50)


class AboutDealsOut(Schema):
    """What is kept about deals."""

    fields: list[DealFieldOut]
    needs: list[NeedOut]


class PipelineOut(Schema):
    """`deals`: all that are on it, closed ones, too."""

    id: int
    name: str
    stages: list[StageOut]
    reasons: list[str]
    deals: int


class PipelineIn(Schema):
    name: str | None = Field(default=None, min_length=1, max_length=80)
    reasons: list[str] | None = Field(default=None, max_length=20)


class StageNameIn(Schema):
    name: str = Field(min_length=1, max_length=80)


class StageIn(Schema):
    """What is named is put in the place of what there is. `position`: from 0."""

    name: str | None = Field(default=None, min_length=1, max_length=80)
    means: str | None = Field(default=None, max_length=300)
    rest_days: int | None = Field(default=None, ge=0, le=3_650)
    likely: int | None = Field(default=None, ge=0, le=100)
    needs: list[str] | None = Field(default=None, max_length=about.MOST_FIELDS)
    position: int | None = Field(default=None, ge=0, le=stages.MOST_STAGES)


def _all(request: AccountRequest) -> list[PipelineOut]:
    own = request.account
    open_in, on = dict[tuple[str, str], int](), Counter[str]()
    is_open = Count("id", filter=Q(state=Deal.State.OPEN))
    rows = Deal.objects.filter(account=own).values_list("pipeline", "stage").annotate(all=Count("id"), open=is_open)
    for pipeline, stage, all_, some in rows:
        on[pipeline] += all_
        open_in[pipeline, stage] = some
    won = counting.won_from(own)
    none = share(0, 0)
    return [
        PipelineOut(
            id=one.pk, name=one.name, reasons=one.reasons, deals=on[one.name],
            stages=[
                StageOut(
                    id=each.pk, name=each.name, means=each.means, rest_days=each.rest_days, likely=each.likely,
                    won=won.get((one.name, each.name), none).count, closed=won.get((one.name, each.name), none).of,
                    needs=each.needs, deals=open_in.get((one.name, each.name), 0),
                )
                for each in one.stages.all()
            ],
        )
        for one in Pipeline.objects.filter(account=own).prefetch_related("stages").order_by("id")
    ]  # fmt: skip


def _pipeline(request: AccountRequest, number: int) -> Pipeline:
    return get_object_or_404(Pipeline.objects.select_related("account"), account=request.account, pk=number)


def _stage(request: AccountRequest, number: int) -> Stage:
    return get_object_or_404(Stage.objects.select_related("account", "pipeline"), account=request.account, pk=number)


@router.get("set-up/pipelines", response=list[PipelineOut])
def pipelines(request: AccountRequest, account: Path[str]) -> list[PipelineOut]:
    return _all(request)


@router.post("set-up/pipelines", response={201: list[PipelineOut]})
def new_pipeline(request: AccountRequest, account: Path[str], given: StageNameIn) -> tuple[int, list[PipelineOut]]:
    require(request, "set-up")
    stages.make(request.account, given.name, request.person)
    return 201, _all(request)


@router.patch("set-up/pipelines/{int:pipeline_id}", response=list[PipelineOut])
def change_pipeline(
    request: AccountRequest, account: Path[str], pipeline_id: int, given: PipelineIn
) -> list[PipelineOut]:
    require(request, "set-up")
    one = _pipeline(request, pipeline_id)
    if given.name:
        stages.rename(one, given.name, request.person)
    if given.reasons is not None:
        stages.set_reasons(one, given.reasons, request.person)
    return _all(request)


@router.delete("set-up/pipelines/{int:pipeline_id}", response=list[PipelineOut])
def drop_pipeline(request: AccountRequest, account: Path[str], pipeline_id: int) -> list[PipelineOut]:
    require(request, "set-up")
    try:
        stages.drop(_pipeline(request, pipeline_id), request.person)
    except BadDeal as error:
        raise HttpError(409, str(error)) from None
    return _all(request)


@router.post("set-up/pipelines/{int:pipeline_id}/stages", response={201: list[PipelineOut]})
def new_stage(
    request: AccountRequest, account: Path[str], pipeline_id: int, given: StageNameIn
) -> tuple[int, list[PipelineOut]]:
    require(request, "set-up")
    try:
        stages.add_stage(_pipeline(request, pipeline_id), given.name, request.person)
    except BadDeal as error:
        raise HttpError(409, str(error)) from None
    return 201, _all(request)


@router.patch("set-up/stages/{int:stage_id}", response=list[PipelineOut])
def change_stage(request: AccountRequest, account: Path[str], stage_id: int, given: StageIn) -> list[PipelineOut]:
    require(request, "set-up")
    parts = {
        name: getattr(given, name)
        for name in given.model_fields_set
        if name in ("rest_days", "likely") or getattr(given, name) is not None
    }
    known = {*NEEDS, *(one.name for one in DealField.objects.filter(account=request.account))}
    if unknown := set(parts.get("needs", ())) - known:
        raise HttpError(422, f"There is no field “{min(unknown)}” for deals. Nothing was changed.")
    stages.change_stage(_stage(request, stage_id), parts, request.person)
    return _all(request)


@router.delete("set-up/stages/{int:stage_id}", response=list[PipelineOut])
def drop_stage(
    request: AccountRequest, account: Path[str], stage_id: int, into: int | None = None
) -> list[PipelineOut]:
    """`into`: the stage that its deals come to. 409 where there are some and none is said, or a workflow runs with it."""
    require(request, "set-up")
    one = _stage(request, stage_id)
    to = get_object_or_404(Stage, pipeline=one.pipeline, pk=into) if into and into != stage_id else None
    try:
        stages.drop_stage(one, to, request.person)
    except BadDeal as error:
        raise HttpError(409, str(error)) from None
    return _all(request)


# ---- what is kept about deals


@router.get("set-up/deal-fields", response=AboutDealsOut)
def about_deals(request: AccountRequest, account: Path[str]) -> AboutDealsOut:
    own = request.account
    keys = Deal.objects.filter(account=own).values(key=Each("fields", function="jsonb_object_keys"))
    filled = dict(keys.annotate(n=Count("id")).values_list("key", "n"))
    fields = list(DealField.objects.filter(account=own).order_by("name"))
    return AboutDealsOut(
        fields=[
            DealFieldOut(id=one.pk, name=one.name, kind=one.kind, choices=one.choices, filled=filled.get(one.name, 0))
            for one in fields
        ],
        needs=[NeedOut(name=name, words=words) for name, words in NEEDS.items()]
        + [NeedOut(name=one.name, words=f"“{one.name}”") for one in fields],
    )


@router.post("set-up/deal-fields", response={201: AboutDealsOut})
def new_deal_field(request: AccountRequest, account: Path[str], given: DealFieldIn) -> tuple[int, AboutDealsOut]:
    require(request, "set-up")
    try:
        about.make_field(request.account, given.name, given.kind, given.choices)
    except BadDeal as error:
        raise HttpError(422, str(error)) from None
    return 201, about_deals(request, account)


@router.delete("set-up/deal-fields/{int:field_id}", response=AboutDealsOut)
def drop_deal_field(request: AccountRequest, account: Path[str], field_id: int) -> AboutDealsOut:
    """With the values that deals have."""
    require(request, "set-up")
    rows = DealField.objects.select_related("account")
    about.drop_field(get_object_or_404(rows, account=request.account, pk=field_id))
    return about_deals(request, account)
