"""Pipelines and their stages as Set-up has them: made, called otherwise, put in order, taken out."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from django.db import transaction

from bluffside.server import sql
from bluffside.server.people import usages
from bluffside.server.pipeline import stays
from bluffside.server.pipeline.models import Deal, DealStay, Pipeline, Stage
from bluffside.server.pipeline.services import NEEDS, BadDeal
from bluffside.server.practice import audit, clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.naming import NotAName, free_name

MOST_STAGES = 20
FIRST = ("New", "Talking", "Offered")
REASONS = ("too dear", "no time", "went elsewhere", "no answer")


@transaction.atomic
def make(account: Account, name: str, by: Person | None, stages: Sequence[str] = FIRST) -> Pipeline:
    """Raises NotAName."""
    name = free_name(Pipeline, "pipeline", account, name)[:80]
    made = Pipeline.objects.create(account=account, name=name, reasons=list(REASONS))
    Stage.objects.bulk_create(
        Stage(account=account, pipeline=made, name=one, position=n) for n, one in enumerate(stages)
    )
    _noted(account, by, f"the pipeline “{made.name}”", "", "added")
    return made


@transaction.atomic
def rename(pipeline: Pipeline, name: str, by: Person) -> None:
    """In all that names it, deals among it; versions that run answer to its former words. Raises NotAName."""
    old, new = pipeline.name, free_name(Pipeline, "pipeline", pipeline.account, name, pipeline.pk)[:80]
    if old == new:
        return
    usages.rename(pipeline.account, "pipeline", old, new, by)
    for rows in (Deal, DealStay):
        rows._default_manager.filter(account=pipeline.account, pipeline=old).update(pipeline=new)
    pipeline.name = new
    pipeline.save(update_fields=["name"])
    _noted(pipeline.account, by, "the name of a pipeline", old, new)


@transaction.atomic
def set_reasons(pipeline: Pipeline, reasons: Sequence[str], by: Person) -> None:
    kept = list(dict.fromkeys(" ".join(sql.plain(one).split())[:80] for one in reasons))[:20]
    before, pipeline.reasons = pipeline.reasons, [one for one in kept if one]
    pipeline.save(update_fields=["reasons"])
    _noted(
        pipeline.account, by, f"why deals of “{pipeline.name}” are lost", ", ".join(before), ", ".join(pipeline.reasons)
    )


@transaction.atomic
def drop(pipeline: Pipeline, by: Person) -> None:
    """Raises BadDeal while deals are on it, or a workflow that runs names it."""
    if Deal.objects.filter(account=pipeline.account, pipeline=pipeline.name).exists():
        raise BadDeal(f"There are deals on “{pipeline.name}”. It can go when they are elsewhere.")
    _not_named(pipeline.account, "pipeline", pipeline.name)
    pipeline.delete()
    _noted(pipeline.account, by, f"the pipeline “{pipeline.name}”", "", "taken away")


# ---- stages


@transaction.atomic
def add_stage(pipeline: Pipeline, name: str, by: Person) -> Stage:
    """Behind the others. Raises NotAName, BadDeal."""
    count = pipeline.stages.count()
    if count >= MOST_STAGES:
        raise BadDeal(f"A pipeline has {MOST_STAGES} stages at most.")
    made = Stage.objects.create(account=pipeline.account, pipeline=pipeline, name=_free(pipeline, name), position=count)
    _noted(pipeline.account, by, f"a stage of “{pipeline.name}”", "", made.name)
    return made


def _free(pipeline: Pipeline, name: str, own: int = 0) -> str:
    name = " ".join(sql.plain(name).split())[:80]
    if not name:
        raise NotAName("A stage needs a name.")
    if pipeline.stages.filter(name__iexact=name).exclude(pk=own).exists():
        raise NotAName(f"“{pipeline.name}” has a stage “{name}” already.")
    return name


@transaction.atomic
def change_stage(stage: Stage, given: Mapping[str, Any], by: Person) -> None:
    """`given`: name, means, rest_days, likely, needs, position. Raises NotAName."""
    account, pipeline = stage.account, stage.pipeline
    _hold(stage)
    if "name" in given and (new := _free(pipeline, given["name"], stage.pk)) != stage.name:
        _rename(stage, new, by)
    for field, words in SAID.items():
        if field in given and given[field] != getattr(stage, field):
            before, now = (_said(one) for one in (getattr(stage, field), given[field]))
            _noted(account, by, f"“{stage.name}” of “{pipeline.name}”: {words}", before, now)
            setattr(stage, field, sql.plain(given[field]).strip()[:300] if field == "means" else given[field])
    stage.save(update_fields=list(SAID))
    if "rest_days" in given:
        stays.may_rest(stage, clock.now())
    if "position" in given:
        order = [one for one in pipeline.stages.select_for_update() if one.pk != stage.pk]
        order.insert(min(given["position"], len(order)), stage)
        for position, one in enumerate(order):
            Stage.objects.filter(pk=one.pk).update(position=position)


def _hold(*stages: Stage) -> None:
    """Nobody moves a deal to them meanwhile."""
    list(Stage.objects.select_for_update(of=("self",)).filter(pk__in=[one.pk for one in stages]).order_by("pk"))


SAID = {
    "means": "what it means", "rest_days": "days it may rest there", "likely": "how many of a hundred are won from there",
    "needs": "what must be known before",
}  # fmt: skip


def _said(value: Any) -> str:
    return ", ".join(NEEDS.get(str(one), str(one)) for one in value) if isinstance(value, list) else str(value or "")


def _rename(stage: Stage, new: str, by: Person) -> None:
    """A name is looked for by workflows whatever the pipeline: where another pipeline has a stage of that name, those that name it
    are left to it, and must not need this one."""
    account, old = stage.account, stage.name
    if Stage.objects.filter(account=account, name=old).exclude(pk=stage.pk).exists():
        if any((one.kind, one.name) == ("stage", old) for one in usages.uses(account)):
            raise NotAName(
                f"Another pipeline has a stage “{old}”, too, and workflows or segments name it: call it otherwise there first."
            )
    else:
        usages.rename(account, "stage", old, new, by)
    for rows in (Deal, DealStay):
        rows._default_manager.filter(account=account, pipeline=stage.pipeline.name, stage=old).update(stage=new)
    Stage.objects.filter(pk=stage.pk).update(name=new)
    stage.name = new
    _noted(account, by, f"the name of a stage of “{stage.pipeline.name}”", old, new)


@transaction.atomic
def drop_stage(stage: Stage, into: Stage | None, by: Person) -> int:
    """Its deals come to another stage, quietly: nothing starts by it. Answers how many. Raises BadDeal."""
    account, pipeline = stage.account, stage.pipeline
    _hold(stage, *([into] if into else []))
    if pipeline.stages.count() < 2:
        raise BadDeal("A pipeline needs a stage.")
    deals = Deal.objects.filter(account=account, pipeline=pipeline.name, stage=stage.name)
    count = deals.count()
    if count and into is None:
        raise BadDeal(f"{count} {'deal is' if count == 1 else 'deals are'} in “{stage.name}”: say where they go.")
    if not Stage.objects.filter(account=account, name=stage.name).exclude(pk=stage.pk).exists():
        _not_named(account, "stage", stage.name)
    if into:
        ids = list(deals.values_list("pk", flat=True))
        deals.update(stage=into.name)
        stays.follow(Deal.objects.filter(pk__in=ids), clock.now())
    stage.delete()
    for position, one in enumerate(pipeline.stages.all()):
        Stage.objects.filter(pk=one.pk).update(position=position)
    _noted(
        account,
        by,
        f"a stage of “{pipeline.name}”",
        stage.name,
        f"taken out, {count} to “{into.name}”" if into else "taken out",
    )
    return count


def _not_named(account: Account, kind: str, name: str) -> None:
    if held := usages.running(account, kind, name):
        titles = ", ".join(f"“{title}”" for title in held)
        raise BadDeal(
            f"{titles} {'runs' if len(held) == 1 else 'run'} with “{name}”. Take it out there and publish first."
        )


def _noted(account: Account, by: Person | None, what: str, before: str, after: str) -> None:
    if by:
        audit.note(account, by, "pipelines", [audit.Noted(what, before, after)])


def names(account: Account) -> Iterator[tuple[str, list[str]]]:
    """Pipelines with the names of their stages, in their order."""
    for one in Pipeline.objects.filter(account=account).prefetch_related("stages").order_by("name"):
        yield one.name, [stage.name for stage in one.stages.all()]
