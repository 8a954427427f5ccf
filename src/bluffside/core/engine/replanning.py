"""What is said relative to a date is planned anew when the date moves.

The first line of a script that goes by a date (an appointment, or a date in a field of the contact's) is remembered when it
is come to, with the loops around it (State.planned). When that date moves:

    1. what has been set going by it or after it, and has not gone out yet, is called off: it tells of the old date;
    2. the lines that go by it and that were come past are looked at again in their order, for the new date: one whose
       time has passed is left out, and that is said; at the first that is still to come they wait again and go on from
       there, in a round of its own, so that what is to come comes once for this date;
    3. where none of these is to come they stay where they are, and the line they stand at works out its own time.

The way that was taken is kept: lines are looked at beside the first one and below the lanes it stands in, not in lanes that
were not taken. Who comes to the end of the script before the date has come stays until then, in case it moves.
"""

from collections.abc import Iterator
from datetime import datetime
from typing import NamedTuple

from bluffside.core.engine.effects import CallOff
from bluffside.core.engine.state import Loops
from bluffside.core.engine.turn import Turn
from bluffside.core.events import Event
from bluffside.core.steps.timed import Timed
from bluffside.core.workflow.moving import to_come
from bluffside.core.workflow.program import END, Program

MOVED = {"appointment.moved": "appointment", "appointment.cancelled": "appointment", "field.changed": "field"}


class Again(NamedTuple):
    """The line where somebody waits again, and the loops around it, each at the pass it was at."""

    line: str
    loops: Loops


def replan(program: Program, turn: Turn, event: Event) -> Again | None:
    """What an event makes of what was planned by the date it moves; None when nobody is to go back."""
    date = moved_by(event)
    if date not in turn.planned:
        return None
    first, loops = turn.planned[date]
    if first not in program.nodes:  # of an earlier version
        return None
    if turn.place != first or turn.state.finished:
        turn.do(CallOff(*turn.key, "what it tells of has moved", (first, *to_come(program, first))))
    for line in _come_past(program, first, turn):
        step = program.step(line)
        if not isinstance(step, Timed) or step.planned_by(turn.setting) != date:
            continue
        settled = step.settle(turn.now, turn.setting, past_is_left_out=True)
        if settled.at is None:
            turn.because("Left out again: {}.", settled.describe())
            continue
        turn.because("Planned anew, since the date has moved.")
        inside = program.node(line).loops
        return Again(line, tuple(loop for loop in loops if loop[0] in inside))
    return None


def moved_by(event: Event) -> str:
    """The date that an event may move, as State.planned names it."""
    subject = MOVED.get(event.kind, "")
    return f"{subject}:{event.data.get(subject, '')}" if subject else ""


def last_date(program: Program, turn: Turn) -> datetime | None:
    """When the last of the dates comes that something was planned by; None when all have come."""
    found = []
    for line, _ in turn.planned.values():
        step = program.nodes[line].step if line in program.nodes else None
        if isinstance(step, Timed) and (start := step.starts(turn.setting)) and start > turn.now:
            found.append(start)
    return max(found, default=None)


def in_case_it_moves(turn: Turn, until: datetime) -> None:
    turn.because("Stays until {}: if that moves, what is said relative to it comes again for the new date.", until)


def _come_past(program: Program, first: str, turn: Turn) -> Iterator[str]:
    """The lines from the first on, along the way that was taken, that lie before the place where they stand."""
    line = first
    while line != END and (turn.place in to_come(program, line) or (line == turn.place and turn.state.finished)):
        if line == turn.place and not turn.state.finished:
            return
        yield line
        line = program.node(line).over
