"""A workflow read aloud: its sentence, each line's sentence and times, its counts and checks.

This is what the workflow page shows beside what is typed; it is computed on every change.
"""

from collections import Counter
from dataclasses import dataclass
from datetime import datetime

from bluffside.core.care.house import Care
from bluffside.core.steps.base import Lane, Span, Waits
from bluffside.core.terms import CHANNEL_KINDS
from bluffside.core.timing.local import to_local
from bluffside.core.triggers import Replied
from bluffside.core.words import counted, several
from bluffside.core.workflow.checks import Check, check
from bluffside.core.workflow.counts import most_touches, touches_of
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.timeline import NO_CARE, Timeline, time_line


@dataclass(frozen=True, slots=True)
class Between:
    """A span as the ruler shows it: days since joining, and local wall-clock times (ISO 8601, to the minute)."""

    day: int
    last_day: int
    at: str
    last_at: str


@dataclass(frozen=True, slots=True)
class LaneReading:
    """`entered`: when somebody may come into the lane; None when nobody does. What the lane holds: its lines, the
    most touches for one person, and the last day, counted from joining, on which somebody may be in it."""

    heading: str
    entered: Between | None
    steps: int
    touches: int
    last_day: int


@dataclass(frozen=True, slots=True)
class LineReading:
    """`acts`: when the line does what it does; `past`: when the line below is reached. None where nobody gets to it, or
    where that goes by something of the contact's: `goes_by` says what ("the appointment"). `shifts`: why it is later than
    it aims at; `holiday`: what is kept on the day it acts, by the account's calendar. `stands_for`: by field, words for parts that only the core can say."""

    step: str
    sentence: str
    headings: dict[str, str]
    lanes: dict[str, LaneReading]
    waits: Waits
    acts: Between | None
    past: Between | None
    goes_by: str
    shifts: list[str]
    holiday: str
    stands_for: dict[str, str]


@dataclass(frozen=True, slots=True)
class Reading:
    summary: str
    over: str
    days: int
    touches: int
    steps: int
    lines: list[LineReading]
    checks: list[Check]


def read(workflow: Workflow, joined: datetime, zone: str, care: Care = NO_CARE) -> Reading:
    """`joined`: an instant, as if somebody joined then; `zone`: where that somebody is; `care`: of the account."""
    times = time_line(workflow, joined, zone, care=care)

    def between(span: Span | None) -> Between | None:
        if span is None:
            return None
        local = [to_local(at, zone).isoformat(timespec="minutes") for at in (span.earliest, span.latest)]
        return Between(times.day(span.earliest), times.day(span.latest), *local)

    def lane_reading(lane: Lane) -> LaneReading:
        inside, touches = len(list(walk(lane.steps))), most_touches(lane.steps)
        return LaneReading(
            lane.heading(), between(times.entered.get(lane.id)), inside, touches, times.last_day_in(lane)
        )

    lines, steps = [], list(walk(workflow.steps))
    for step in steps:
        lanes = {lane.id: lane_reading(lane) for lane in step.lanes_below()}
        line = times.lines.get(step.id)
        acts, past = (between(line.acts), between(line.past)) if line else (None, None)
        headings = {id: lane.heading for id, lane in lanes.items()}
        goes_by = times.goes_by.get(step.id, "")
        shifts, said = list(times.shifts.get(step.id, ())), dict(step.stands_for())
        day = to_local(line.acts.earliest, zone).date() if line and line.acts else None
        lines.append(
            LineReading(
                step.id,
                step.describe(),
                headings,
                lanes,
                step.waits,
                acts,
                past,
                goes_by,
                shifts,
                care.holidays.holiday(day) if day else "",
                said,
            )
        )
    touches = touches_of(workflow.steps)
    return Reading(
        _summary(workflow, touches, times),
        _over(touches, times),
        times.last_day,
        most_touches(workflow.steps),
        len(steps),
        lines,
        check(workflow),
    )


def _over(touches: Counter[str], times: Timeline) -> str:
    """ "Over 14 days at the longest: 3 texts, 1 call." """
    days, goes_by = times.last_day, list(dict.fromkeys(filter(None, times.goes_by.values())))
    kinds = dict.fromkeys(("text", "email", "call", *touches))
    said = (
        ", ".join(
            counted(touches[kind], CHANNEL_KINDS[kind].one if kind in CHANNEL_KINDS else kind)
            for kind in kinds
            if touches[kind]
        )
        or "no messages"
    )
    over = "On the same day" if days == 0 else f"Over {days} day{'' if days == 1 else 's'} at the longest"
    if goes_by:
        over = f"{over} and by {several(goes_by)}" if days else f"By {several(goes_by)}"
    return f"{over}: {said}."


def _summary(workflow: Workflow, touches: Counter[str], times: Timeline) -> str:
    starts = " or ".join(trigger.describe() for trigger in workflow.starts) or "never"
    leaves = "Leaves on a reply." if workflow.leaves_on_replies else "Stays in when they reply."
    others = [trigger.describe() for trigger in workflow.leaves_on if trigger != Replied()]
    if others:
        leaves += f" Leaves {several(others, 'or')}."
    held = workflow.entry.hold_back
    leaves += f" Leaves out 1 in {held} on purpose, to compare." if held else ""
    aim = f" Reaches its aim {workflow.aim.describe()}." if workflow.aim else ""
    hours = f" Sends {workflow.hours.describe()}, where they are." if workflow.hours else ""
    return f"Starts {starts}. {_over(touches, times)} {leaves}{aim}{hours}"
