"""The time line: the earliest and latest moment of every line, as if joining at an instant.

Nothing is run. Each step says when it acts and when the line below is reached (see `When`); the ends of a
span stay its ends, since who comes later is never earlier further on. Where the way divides, every lane has
its own span; where lanes close, the line below has the span of all lanes that get there; what leaves out
some lines joins again at the next line that waits for a time; a loop is gone through pass by pass.

It is computed for somebody who can be reached on every channel: who cannot, passes messages sooner.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from bluffside.core.care.house import Care
from bluffside.core.engine.turn import Setting
from bluffside.core.facts import Facts
from bluffside.core.steps.base import Lane, Span, Step, When
from bluffside.core.steps.repeat import Repeat
from bluffside.core.steps.speaking import Speaking
from bluffside.core.steps.timed import Timed
from bluffside.core.timing.local import to_local
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.program import MOST_VISITS

NO_CARE = Care()


@dataclass(frozen=True, slots=True)
class Line:
    """`acts`: when the step does what it does; `past`: when the line below is reached; None when it never is."""

    acts: Span | None
    past: Span | None


@dataclass(frozen=True, slots=True)
class Timeline:
    """Lines that nobody can reach are not among `lines`. `entered`: when each lane is entered, by its id. `goes_by`: of
    lines whose time nobody can say without knowing the contact, what it goes by ("the appointment"). `shifts`: of
    lines that come later, or on another day, than they aim at, why ("weekends excluded")."""

    joined: datetime
    zone: str
    lines: Mapping[str, Line]
    entered: Mapping[str, Span]
    ends: Span | None
    goes_by: Mapping[str, str]
    shifts: Mapping[str, Sequence[str]]

    def day(self, instant: datetime) -> int:
        """The calendar day of an instant, counted from the day of joining (day 0), in local time."""
        return (to_local(instant, self.zone).date() - to_local(self.joined, self.zone).date()).days

    @property
    def last_day(self) -> int:
        """The last day on which somebody may still be inside."""
        return self._last_day(self.lines.values())

    def last_day_in(self, lane: Lane) -> int:
        """The last day on which somebody may still be in a lane; the day it is entered when it has no lines."""
        lines = [self.lines[step.id] for step in walk(lane.steps) if step.id in self.lines]
        entered = self.entered.get(lane.id)
        return max(self._last_day(lines), self.day(entered.latest) if entered else 0)

    def _last_day(self, lines: Iterable[Line]) -> int:
        return max((self.day(line.past.latest) for line in lines if line.past), default=0)


def time_line(
    workflow: Workflow, joined: datetime, zone: str, facts: Facts | None = None, care: Care = NO_CARE
) -> Timeline:
    """With `facts`, dates and appointments are that contact's, and that account's care is kept; without, `care` is kept,
    and lines that go by a date nobody has yet are passed by."""
    if facts is None:
        setting = Setting(zone, workflow.hours, care, joined)
    else:
        care = facts.account.care
        setting = Setting(zone, workflow.hours, care, joined, facts.contact, {}, facts.account.zone)
    lay = _Laying(setting)
    ends = lay.run(workflow.steps, Span(joined, joined))
    return Timeline(joined, zone, lay.lines, lay.entered, ends, lay.goes_by, lay.shifts)


class _Laying:
    def __init__(self, setting: Setting) -> None:
        self.setting = setting
        self.lines: dict[str, Line] = {}
        self.entered: dict[str, Span] = {}
        self.goes_by: dict[str, str] = {}
        self.shifts: dict[str, Sequence[str]] = {}
        self.rounds = 0

    def run(self, steps: Sequence[Step], reached: Span | None) -> Span | None:
        """Lays a run of steps; answers when its end is reached, None when nobody gets there."""
        over: Span | None = None  # who has left out lines, and waits for the next that waits for a time
        unknown = ""  # what the time of the lines that follow goes by
        self.rounds += len(steps)
        for step in steps:
            if isinstance(step, Timed):
                unknown = ""
                if over is not None:
                    reached, over = over.joined(reached), None
            if reached is None:
                self.goes_by.update({one.id: unknown for one in walk([step]) if unknown})
                continue
            when = step.when(reached, self.setting)
            if isinstance(step, Timed) and when.past is None and step.aim(reached.earliest, self.setting) is None:
                unknown = self.goes_by[step.id] = step.goes_by()
            self._note(step.id, when.acts, when.past)
            if step.id not in self.shifts and (shifts := self._shifted(step, reached, when)):
                self.shifts[step.id] = shifts
            over = when.over.joined(over) if when.over else over
            if step.ends:
                reached = None
            elif isinstance(step, Repeat):
                reached = self._loop(step, reached)
            elif step.divides:
                reached = self._lanes(step, when)
            else:
                reached = when.past
        return over.joined(reached) if over else reached

    def _shifted(self, step: Step, reached: Span, when: When) -> Sequence[str]:
        """Why a line comes later, or on another day, than it aims at, for the first who gets there."""
        if isinstance(step, Timed):
            settled = step.settle(reached.earliest, self.setting)
            if settled.at is None:
                return settled.why
            return [why for why in settled.why[1:-1] if not (step.picks_days and why.startswith("moved from"))]
        if isinstance(step, Speaking) and when.acts and when.acts.earliest > reached.earliest:
            closed = (self.setting.why_not_now(reached.earliest, one, step.purpose) for one in step.versions())
            return [f"held back: {why}" for why in closed if why][:1]
        return ()

    def _note(self, id: str, acts: Span | None, past: Span | None) -> None:
        known = self.lines.get(id)
        if known:
            acts = known.acts.joined(acts) if known.acts else acts
            past = known.past.joined(past) if known.past else past
        self.lines[id] = Line(acts, past)

    def _enter(self, lane: str, span: Span) -> Span:
        self.entered[lane] = span.joined(self.entered.get(lane))
        return span

    def _lanes(self, step: Step, when: When) -> Span | None:
        closed = None if step.covers_all() else when.past
        for lane in step.lanes_below():
            if lane.id in when.lanes:
                end = self.run(lane.steps, self._enter(lane.id, when.lanes[lane.id]))
                closed = end.joined(closed) if end else closed
        return closed

    def _loop(self, step: Repeat, reached: Span) -> Span | None:
        """Pass by pass; with a condition to stop on, people may go on below before each."""
        lanes = step.lanes_below()
        at: Span | None = reached
        closed: Span | None = None
        inside_another = self.setting.later_pass
        for number in range(step.times if lanes else 0):
            self.rounds += 1
            if at is None or self.rounds > MOST_VISITS:  # so many that it is refused, see document_checks.py
                break
            self.setting.later_pass = inside_another or number > 0
            if step.until:
                closed = at.joined(closed)
            at = self.run(lanes[0].steps, self._enter(lanes[0].id, at))
            if at:
                self._note(step.id, at, None)
        self.setting.later_pass = inside_another
        below = at.joined(closed) if at else closed
        if below:
            self._note(step.id, None, below)
        return below
