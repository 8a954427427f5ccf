"""Results along the script, as it is read: of those who came to a line, what it did, what came of it, how many left there and why."""

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from django.db.models import Count, QuerySet, Sum

from bluffside.core.statistics.said import against, tells
from bluffside.core.statistics.share import share
from bluffside.core.steps.base import Step
from bluffside.core.workflow.document import Workflow as Document
from bluffside.server.practice.models import Account
from bluffside.server.results.models import LineSum, TaskSum
from bluffside.server.results.periods import Period
from bluffside.server.results.sent import Sent, sent_by, sums_in
from bluffside.server.workflows.models import Workflow


@dataclass(slots=True)
class Tasks:
    made: int = 0
    done: int = 0
    reached: int = 0
    dropped: int = 0


@dataclass(slots=True)
class Line:
    """`lane`: the heading of the lane whose first line it is; `depth`: in how many lanes it stands."""

    step: Step
    depth: int
    lane: str = ""
    came: int = 0
    left: int = 0
    why: Counter[str] = field(default_factory=Counter)
    here: int = 0
    sent: Sent | None = None
    tasks: Tasks | None = None


def along(workflow: Workflow, document: Document, account: Account, period: Period) -> list[Line]:
    """The lines of the published version. What was counted at lines that it has no more is left out."""
    came, why = _came(_lines(workflow, account, period))
    sent = sent_by(sums_in(account, period, workflow.pk), "step")
    tasks = _tasks(account, period, workflow)
    here = dict(
        workflow.enrolments.filter(ended_at=None).exclude(place="").values_list("place").annotate(count=Count("id"))
    )
    return [
        Line(
            step, depth, lane, came.get(step.id, (0, 0))[0], came.get(step.id, (0, 0))[1], why.get(step.id, Counter()),
            here.get(step.id, 0), sent.get((step.id,)), tasks.get(step.id),
        )
        for step, depth, lane in _flat(document.steps)
    ]  # fmt: skip


def _flat(steps: Sequence[Step], depth: int = 0, heading: str = "") -> Iterator[tuple[Step, int, str]]:
    for number, step in enumerate(steps):
        yield step, depth, "" if number else heading
        for lane in step.lanes_below():
            yield from _flat(lane.steps, depth + 1, lane.heading())


def _lines(workflow: Workflow, account: Account, period: Period) -> QuerySet[LineSum]:
    return LineSum.objects.filter(
        account=account, workflow_id=workflow.pk, day__gte=period.since, day__lte=period.until
    )


def _came(rows: QuerySet[LineSum]) -> tuple[dict[str, tuple[int, int]], dict[str, Counter[str]]]:
    came = {
        step: (all_came, all_left)
        for step, all_came, all_left in rows.values_list("step").annotate(Sum("came"), Sum("left")).order_by()
    }
    why: dict[str, Counter[str]] = {}
    for step, reasons in rows.exclude(why={}).values_list("step", "why"):
        why.setdefault(step, Counter()).update(reasons)
    return came, why


def _tasks(account: Account, period: Period, workflow: Workflow) -> dict[str, Tasks]:
    rows = TaskSum.objects.filter(
        account=account, workflow_id=workflow.pk, day__gte=period.since, day__lte=period.until
    )
    summed = rows.values_list("step").annotate(Sum("made"), Sum("done"), Sum("reached"), Sum("dropped")).order_by()
    return {step: Tasks(*counts) for step, *counts in summed}


@dataclass(frozen=True, slots=True)
class ToDo:
    """Something that the figures say is worth doing, at a line."""

    step: str
    what: str
    why: str


FAILING = (
    0.05  # of messages; more than that is looked into (common practice: lists are cleaned above a few in a hundred)
)


def to_do(lines: Sequence[Line]) -> list[ToDo]:
    """What is beyond chance alone: a message after which more opt out than after the others, and one of which many fail."""
    spoken = [(one, one.sent) for one in lines if one.sent and one.sent.delivered]
    found = []
    for one, sent in spoken:
        out = sent.share_of("opted_out")
        others = share(
            sum(other.opted_out for line, other in spoken if line is not one),
            sum(other.delivered for line, other in spoken if line is not one),
        )
        more = against(out, others)
        if more.way == "rose":
            found.append(
                ToDo(
                    one.step.id,
                    f"Write “{_title(one.step)}” anew",
                    f"{out.count} of {out.of} opted out after it, {more.in_words} than after the others",
                )
            )
        failed = sent.share_of("failed")
        if tells(failed) and failed.low > FAILING:
            why = sent.why.most_common(1)[0][0] if sent.why else "no reason is known"
            found.append(
                ToDo(
                    one.step.id,
                    f"See why “{_title(one.step)}” fails",
                    f"{failed.count} of {failed.of} did, most of all: {why}",
                )
            )
    return found


def _title(step: Step) -> str:
    return str(getattr(step, "title", "") or step.describe())
