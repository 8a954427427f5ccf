"""A workflow read aloud: its sentence, each line's sentence and times, its counts and checks.

This is what the workflow page shows beside what is typed; it is computed on every change.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from bluffside.core.steps.base import Span, Step, Waits
from bluffside.core.timing.local import to_local
from bluffside.core.workflow.checks import Check, check
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.timeline import time_line


@dataclass(frozen=True, slots=True)
class Between:
    """A span as the ruler shows it: days since joining, and local wall-clock times (ISO 8601, to the minute)."""

    day: int
    last_day: int
    at: str
    last_at: str


@dataclass(frozen=True, slots=True)
class LineReading:
    """`acts`: when the line does what it does; `past`: when the line below is reached. None where nobody gets to it."""

    step: str
    sentence: str
    headings: dict[str, str]
    waits: Waits
    acts: Between | None
    past: Between | None


@dataclass(frozen=True, slots=True)
class Reading:
    summary: str
    days: int
    touches: int
    lines: list[LineReading]
    checks: list[Check]


def read(workflow: Workflow, joined: datetime, zone: str) -> Reading:
    """`joined`: an instant, as if somebody joined then; `zone`: where that somebody is."""
    times = time_line(workflow, joined, zone)

    def between(span: Span) -> Between:
        local = [to_local(at, zone).isoformat(timespec="minutes") for at in (span.earliest, span.latest)]
        return Between(times.day(span.earliest), times.day(span.latest), *local)

    lines = []
    for step in walk(workflow.steps):
        headings = {lane.id: lane.heading() for lane in step.lanes_below()}
        line = times.lines.get(step.id)
        acts, past = (between(line.acts), between(line.past)) if line else (None, None)
        lines.append(LineReading(step.id, step.describe(), headings, step.waits, acts, past))
    touches = _touches(workflow.steps)
    return Reading(
        _summary(workflow, touches, times.last_day), times.last_day, sum(touches.values()), lines, check(workflow)
    )


def _touches(steps: Sequence[Step]) -> Counter[str]:
    """The most touches of each kind that one person can get: lanes are alternatives, so the fullest counts."""
    total: Counter[str] = Counter()
    for step in steps:
        if step.speaks:
            total[step.speaks] += 1
        fullest: Counter[str] = Counter()
        for lane in step.lanes_below():
            fullest |= _touches(lane.steps)
        total += fullest
    return total


def _summary(workflow: Workflow, touches: Counter[str], days: int) -> str:
    starts = " or ".join(trigger.describe() for trigger in workflow.starts) or "never"
    counted = [f"{touches[kind]} {kind}{'' if touches[kind] == 1 else 's'}" for kind in ("text", "email", "call")]
    said = ", ".join(words for words in counted if not words.startswith("0")) or "no messages"
    over = "On the same day" if days == 0 else f"Over {days} day{'' if days == 1 else 's'} at the longest"
    leaves = "Leaves on a reply." if "reply" in workflow.leaves_on else "Stays in when they reply."
    hours = f" Sends {workflow.hours.describe()}, where they are." if workflow.hours else ""
    return f"Starts {starts}. {over}: {said}. {leaves}{hours}"
