"""Checks: what is wrong ("error": it cannot be published) or risky ("warning") in a workflow, as data."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from bluffside.core.steps.base import Step
from bluffside.core.steps.end import End
from bluffside.core.timing.hours import LAWFUL_FROM, LAWFUL_TO
from bluffside.core.workflow.document import Workflow, walk


@dataclass(frozen=True, slots=True)
class Check:
    """`step` is the id of the line it is about; empty when it is about the workflow."""

    code: str
    step: str
    severity: Literal["error", "warning"]
    sentence: str


def check(workflow: Workflow) -> list[Check]:
    """All checks, in the order of the script, those of the workflow itself first."""
    return [*_whole(workflow), *_steps(workflow), *_beyond_end(workflow.steps)]


def can_publish(checks: Sequence[Check]) -> bool:
    return all(one.severity != "error" for one in checks)


def _whole(workflow: Workflow) -> Iterator[Check]:
    if not workflow.steps:
        yield Check("no-lines", "", "error", "There are no lines yet.")
    if not workflow.starts:
        yield Check("no-start", "", "error", "Nothing starts it.")
    for trigger in workflow.starts:
        if fault := trigger.fault():
            yield Check("start-incomplete", "", "error", fault)
    speaks = {step.speaks for step in walk(workflow.steps)}
    if workflow.steps and not speaks & {"text", "email", "call"}:
        yield Check("nobody-speaks", "", "warning", "It sends no message and asks for no call.")
    if "text" in speaks and workflow.hours is None:
        yield Check("any-hour", "", "warning", "Texts may go out at any hour, also at night.")
    if "text" in speaks and workflow.hours and (workflow.hours.start < LAWFUL_FROM or workflow.hours.end > LAWFUL_TO):
        yield Check("wide-hours", "", "warning", "Texts may go out before 08:00 or after 21:00 where the contact is.")


def _steps(workflow: Workflow) -> Iterator[Check]:
    for step in walk(workflow.steps):
        for fault in step.faults():
            yield Check(fault.code, step.id, fault.severity, fault.sentence)


def _beyond_end(steps: Sequence[Step]) -> Iterator[Check]:
    """Lines that nobody can reach because every way before them ends."""

    def over(run: Sequence[Step]) -> bool:
        return any(ends(step) for step in run)

    def ends(step: Step) -> bool:
        lanes = step.lanes_below()
        return isinstance(step, End) or (bool(lanes) and step.covers_all() and all(over(lane.steps) for lane in lanes))

    for index, step in enumerate(steps):
        if index and over(steps[:index]):
            yield Check("after-the-end", step.id, "error", "Nobody gets here: every way above has ended.")
            return
        for lane in step.lanes_below():
            yield from _beyond_end(lane.steps)
