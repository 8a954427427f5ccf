"""What of the core this server carries out already. A workflow that uses more can be written, brought in from a
file and rehearsed, and is refused when it is to be published, by checks that say which line it is."""

from collections.abc import Iterator
from datetime import datetime

from bluffside.core.conditions import Need
from bluffside.core.steps.base import Step
from bluffside.core.steps.for_member import ForMember
from bluffside.core.steps.speaking import Speaking
from bluffside.core.triggers import Trigger
from bluffside.core.workflow.checks import Check, check
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.house import House
from bluffside.core.workflow.program import compile_workflow

# Kinds that the page has editors for, and offers for new lines.
OFFERED = ("text", "email", "wait", "wait_for_reply", "choose", "tag", "untag", "note", "call", "to_do", "end")
STEPS = frozenset(OFFERED) | {"on_day", "on_date", "on_weekday", "next_time", "each_year", "split", "repeat"}
STARTS = frozenset({"tag_added", "by_hand"})
LEAVES = frozenset({"replied"})
FACTS: frozenset[Need] = frozenset({"contact", "tags", "consents"})


def all_checks(document: Workflow, zone: str, now: datetime) -> list[Check]:
    """The core's checks, and those for what is not carried out yet."""
    return [*_not_yet(document), *check(document, House(zone, now=now))]


def _not_yet(document: Workflow) -> Iterator[Check]:
    def refused(step: str, what: str) -> Check:
        return Check("not-carried-out", step, "error", f"This installation does not carry this out yet: {what}.")

    for start in document.starts:
        if start.kind not in STARTS:
            yield refused("", f"starting {start.describe()}")
    for leaves in document.leaves_on:
        if leaves.kind not in LEAVES or _is_narrow(leaves):
            yield refused("", f"leaving {leaves.describe()}")
    for step in walk(document.steps):
        if step.kind not in STEPS:
            yield refused(step.id, step.label.lower())
        elif part := _beyond(step):
            yield refused(step.id, part)
    missing = sorted(compile_workflow(document).needs - FACTS)
    if missing:
        yield refused("", f"conditions on {', '.join(missing)}")


def _is_narrow(leaves: Trigger) -> bool:
    return bool(getattr(leaves, "message", ""))


def _beyond(step: Step) -> str:
    """The part of a line that is not carried out yet; empty when all of it is."""
    if isinstance(step, Speaking):
        if step.held:
            return "holding a message for a person"
        return "a sender of its own" if step.sender else ""
    if isinstance(step, ForMember) and step.assign.to != "responsible":
        return "assigning a task to others than the responsible member"
    return ""
