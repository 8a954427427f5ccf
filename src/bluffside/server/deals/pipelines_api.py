"""Pipelines and their stages as Set-up has them."""

from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.server.pipeline import stages
from bluffside.server.pipeline.models import Deal, Pipeline, Stage
from bluffside.server.pipeline.services import BadDeal
from bluffside.server.practice.access import AccountRequest, InAccount, require

router = Router(tags=["deals"], auth=InAccount())


class StageOut(Schema):
    """`deals`: open ones that stand in it; `rest_days`: how long one may; None: as long as it likes."""

    id: int
    name: str
    means: str
    rest_days: int | None
    deals: int


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
    position: int | None = Field(default=None, ge=0, le=stages.MOST_STAGES)


def _all(request: AccountRequest) -> list[PipelineOut]:
    own = request.account
    open_in, on = dict[tuple[str, str], int](), dict[str, int]()
    for pipeline, stage, state in Deal.objects.filter(account=own).values_list("pipeline", "stage", "state").iterator():
        on[pipeline] = on.get(pipeline, 0) + 1
        if state == Deal.State.OPEN:
            open_in[pipeline, stage] = open_in.get((pipeline, stage), 0) + 1
    return [
        PipelineOut(
            id=one.pk, name=one.name, reasons=one.reasons, deals=on.get(one.name, 0),
            stages=[
                StageOut(
                    id=each.pk, name=each.name, means=each.means, rest_days=each.rest_days,
                    deals=open_in.get((one.name, each.name), 0),
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
        if name == "rest_days" or getattr(given, name) is not None
    }
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
