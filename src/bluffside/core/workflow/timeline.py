"""The time line: the earliest and latest moment of every line, as if joining at an instant.

Nothing is run. Each step says when it acts and when the line below is reached; both are monotonic in
the time it is reached at, so the ends of a span stay its ends. Where the way divides, every lane has
its own span; where lanes close, the line below has the span of all lanes that get there.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from bluffside.core.engine.turn import Setting
from bluffside.core.steps.base import Span, Step
from bluffside.core.steps.end import End
from bluffside.core.timing.local import to_local
from bluffside.core.workflow.document import Workflow


@dataclass(frozen=True, slots=True)
class Line:
    """`acts`: when the step does what it does. `past`: when the line below is reached."""

    acts: Span
    past: Span


@dataclass(frozen=True, slots=True)
class Timeline:
    """Lines that nobody can reach are not among `lines`."""

    joined: datetime
    zone: str
    lines: Mapping[str, Line]

    def day(self, instant: datetime) -> int:
        """The calendar day of an instant, counted from the day of joining (day 0), in local time."""
        return (to_local(instant, self.zone).date() - to_local(self.joined, self.zone).date()).days

    @property
    def last_day(self) -> int:
        return max((self.day(line.past.latest) for line in self.lines.values()), default=0)


def time_line(workflow: Workflow, joined: datetime, zone: str) -> Timeline:
    setting = Setting(zone, workflow.hours)
    lines: dict[str, Line] = {}

    def lay(steps: Sequence[Step], reached: Span | None) -> Span | None:
        """Lays a run of steps; answers when its end is reached, None when nobody gets there."""
        for step in steps:
            if reached is None:
                break
            acts = Span(step.acts_at(reached.earliest, setting), step.acts_at(reached.latest, setting))
            past = Span(step.past(reached.earliest, setting), step.past(reached.latest, setting))
            lines[step.id] = Line(acts, past)
            if isinstance(step, End):
                reached = None
            elif step.divides:
                reached = close(step, reached)
            else:
                reached = past
        return reached

    def close(step: Step, reached: Span) -> Span | None:
        entered = step.lane_spans(reached, setting)
        ends = [lay(lane.steps, entered[lane.id]) for lane in step.lanes_below()]
        if not step.covers_all():
            ends.append(Span(reached.earliest, step.past(reached.latest, setting)))
        closed: Span | None = None
        for end in ends:
            if end is not None:
                closed = end if closed is None else closed.joined(end)
        return closed

    lay(workflow.steps, Span(joined, joined))
    return Timeline(joined, zone, lines)
