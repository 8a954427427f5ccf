"""People inside, moved from one version of a workflow to another.

Every place of the old version maps to a place of the new one that exists:
  - to the same line, when it is still there: a wait keeps the moment it was waiting for;
  - else to the first line, on the way on from there in the old version, that the new version still has:
    the person begins there;
  - else to the end.
For each person it is said what they gain (lines to come that they would not have had), lose (lines they would
have had), and repeat (lines already done that are to come again). A repeated line is done again only where
its key is new; the server's keys keep a message from going out twice in the same pass.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from bluffside.core.engine.state import State
from bluffside.core.workflow.graph import leads_to
from bluffside.core.workflow.program import END, Program

MOVED_TO_END = "moved to a version that has nothing left for them"


@dataclass(frozen=True, slots=True)
class Move:
    """What happens to somebody at a place. `stays`: they keep waiting there; else they begin at `to`, or with END
    leave. The lines in `gains`, `loses` and `repeats` are ids, in the order of the way on."""

    place: str
    to: str
    stays: bool
    gains: tuple[str, ...]
    loses: tuple[str, ...]
    repeats: tuple[str, ...]


def to_come(program: Program, place: str) -> list[str]:
    """Every line that can still come after a place, nearest first."""
    found: dict[str, None] = {}
    waiting = list(_next(program, place))
    for near in waiting:  # grows while it is gone through
        if near != END and near not in found:
            found[near] = None
            waiting += leads_to(program, near)
    return list(found)


def _next(program: Program, place: str) -> Iterator[str]:
    yield from leads_to(program, place) if place else (program.first,)


def new_place(old: Program, new: Program, place: str) -> str:
    """Where somebody at a place of the old version stands in the new one; END when nothing is left for them."""
    return _nearest(new, place, to_come(old, place))


def _nearest(new: Program, place: str, before: Sequence[str]) -> str:
    return place if place in new.nodes else next((near for near in before if near in new.nodes), END)


def move_of(old: Program, new: Program, place: str, done: frozenset[str] | None = None) -> Move:
    """What changes for somebody at a place. `done`: the lines they have been through; when it is not known, every
    line that leads to the place is taken to be."""
    if done is None:
        done = frozenset(other for other in old.nodes if place in to_come(old, other))
    return _move(new, place, to_come(old, place), done)


def _move(new: Program, place: str, before: Sequence[str], done: frozenset[str]) -> Move:
    """`before`: the lines to come after the place in the old version, nearest first."""
    to = _nearest(new, place, before)
    after = to_come(new, to) if to else []
    if to and to != place:
        after = [to, *(one for one in after if one != to)]
    had, has = frozenset(before), frozenset(after)
    return Move(
        place,
        to,
        stays=to == place,
        gains=tuple(one for one in after if one not in had and one not in done and one != place),
        loses=tuple(one for one in before if one not in has),
        repeats=tuple(one for one in after if one in done and one not in had),
    )


def place_map(old: Program, new: Program) -> Mapping[str, Move]:
    """What happens to people at each place of the old version."""
    ways = {place: to_come(old, place) for place in old.nodes}
    led: dict[str, set[str]] = {place: set() for place in ways}
    for place, tos in ways.items():
        for to in tos:
            led[to].add(place)
    return {place: _move(new, place, ways[place], frozenset(led[place])) for place in ways}


def moved(state: State, old: Program, new: Program, now: datetime) -> State:
    """The enrolment in the new version. It keeps its wait where its line stayed; where it begins at another line it
    is due now, and the engine begins there when it is told `TimeReached`, since it has not arrived yet."""
    if state.ended or not state.place:
        return state
    to = new_place(old, new, state.place)
    if to == END:
        return state._replace(place=END, until=None, listens=False, ended=MOVED_TO_END, loops=(), finished=False)
    loops = _loops(state, new, to)
    if to == state.place:
        return state if state.finished else state._replace(loops=loops)
    return state._replace(place=to, arrived=None, until=now, listens=False, loops=loops, finished=False)


def sent_to(state: State, program: Program, place: str, now: datetime) -> State:
    """The enrolment at another line of its version, where it begins when it is told `TimeReached`. It counts as another
    round, so that a line it has been through is done again. Raises `program.UnknownPlace`."""
    loops = _loops(state, program, place)
    again = state.round + 1
    return state._replace(place=place, arrived=None, until=now, listens=False, round=again, loops=loops, finished=False)


def _loops(state: State, new: Program, to: str) -> tuple[tuple[str, int], ...]:
    """The loops around the new place, each at the pass it was at; one they were not in is at its first."""
    passes = dict(state.loops)
    return tuple((loop, passes.get(loop, 1)) for loop in new.node(to).loops)


KEEPS_ITS_MOMENT = "This line has changed: who waits at it already keeps the moment they are waiting for."


def keeps_old_moment(place: str, old: Program, new: Program) -> bool:
    """Whether somebody who stays at a line waits on for a moment that the line, as it is now, may not have set."""
    if place not in old.nodes or not new.step(place).waits:
        return False
    was, is_now = (program.step(place).model_dump(exclude={"lanes"}) for program in (old, new))
    return was != is_now


def in_words(move: Move, new: Program, old: Program) -> list[str]:
    """What changes for somebody, in sentences; empty when nothing does."""
    said = [KEEPS_ITS_MOMENT] if move.stays and keeps_old_moment(move.place, old, new) else []
    if not move.stays:
        said.append(f"Goes on at: {new.step(move.to).describe()}" if move.to else "Leaves: nothing is left for them.")
    for word, lines, program in (
        ("Gains", move.gains, new),
        ("Loses", move.loses, old),
        ("Repeats", move.repeats, new),
    ):
        said += [f"{word}: {program.step(line).describe()}" for line in lines]
    return said
