"""advance(): what happens to one enrolment when something reaches it.

    state     signal        what becomes of it
    -------   -----------   ------------------------------------------------------------------
    new       Joined        begins at the first line
    running   TimeReached   its step wakes, if its time has come; else nothing
    running   Replied       its step hears it, if it listens; else it leaves, if the workflow
                            leaves on replies or the reply is an opt-out; else nothing
    running   Removed       leaves
    ended     anything      nothing

After that, moves are followed from line to line until one says stay or leave, or the script is out
of lines. Lines only ever lead forward (see workflow.program), so this ends.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from bluffside.core.channels.consent import is_opt_out
from bluffside.core.engine.effects import Effect
from bluffside.core.engine.moves import Into, Leave, Move, On, Stay
from bluffside.core.engine.signals import Joined, Removed, Replied, Signal, TimeReached
from bluffside.core.engine.state import State
from bluffside.core.engine.turn import Reason, Setting, Turn
from bluffside.core.facts import Facts
from bluffside.core.workflow.program import Program

FINISHED = "came to the end"


@dataclass(frozen=True, slots=True)
class Outcome:
    state: State
    effects: Sequence[Effect] = ()
    reasons: Sequence[Reason] = ()


def advance(program: Program, state: State, facts: Facts, signal: Signal, now: datetime) -> Outcome:
    """The next state, the effects and the reasons.

    Pure: the same arguments give the same outcome. Raises `program.UnknownPlace` when the state
    stands at a step this program does not have, and `merge.BadTemplate` when a message cannot be rendered.
    """
    if not state.running:
        return Outcome(state)
    turn = Turn(now, state, facts, Setting(facts.zone, program.hours))
    move = _first_move(program, turn, signal)
    if move is None:
        return Outcome(state, (), turn.reasons)
    return Outcome(_follow(program, turn, move), turn.effects, turn.reasons)


def _first_move(program: Program, turn: Turn, signal: Signal) -> Move | None:
    state = turn.state
    match signal:
        case Joined(why):
            if state.place:
                return None
            turn.because(f"Joined: {why}.")
            return On()
        case TimeReached():
            if not state.place or state.until is None or turn.now < state.until:
                return None
            return program.step(state.place).wake(turn)
        case Replied():
            return _hear(program, turn, signal)
        case Removed(why):
            turn.because(f"Taken out: {why}.")
            return Leave(why)


def _hear(program: Program, turn: Turn, reply: Replied) -> Move | None:
    if turn.state.listens:
        return program.step(turn.state.place).hear(turn, reply)
    seen = {"reply": reply.text}
    if program.leaves_on_reply:
        turn.because("Leaves: a reply came, and this workflow leaves on any reply.", seen)
        return Leave("replied")
    if is_opt_out(reply.text):
        turn.because("Leaves: the reply asks to stop.", seen)
        return Leave("opted out")
    turn.because("Goes on: a reply came, and this workflow does not leave on replies.", seen)
    return None


def _follow(program: Program, turn: Turn, move: Move) -> State:
    while True:
        place = turn.state.place
        match move:
            case Stay(until, listens):
                return replace(turn.state, until=until, listens=listens)
            case Leave(why):
                return _ended(turn.state, why)
            case On():
                place = program.after(place)
            case Into(lane):
                place = program.into(place, lane)
        if not place:
            turn.state = replace(turn.state, place="")
            turn.because("Came to the end of the script.")
            return _ended(turn.state, FINISHED)
        turn.state = replace(turn.state, place=place, arrived=turn.now, until=None, listens=False)
        move = program.step(place).begin(turn)


def _ended(state: State, why: str) -> State:
    return replace(state, place="", until=None, listens=False, ended=why)
