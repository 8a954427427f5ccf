"""advance(): what happens to one enrolment when something reaches it.

    state     signal        what becomes of it
    -------   -----------   ------------------------------------------------------------------
    new       Joined        hears what reached it meanwhile, and leaves on it or begins at the first line
    running   TimeReached   its step wakes, if its time has come; else nothing
    running   Replied       its step hears it, if it listens; else, when it asks to stop, as Happened with
                            the consent withdrawn, and it leaves if nothing waits for that; else as Happened
    running   Happened      its step takes notice, if it waits for that; else it leaves, if the
                            workflow leaves on that; else, when it moves a date that something was planned by,
                            that is planned anew (engine.replanning); else nothing
    finished  TimeReached   leaves, once the last date that something was planned by has come, and once a clearer answer would
                            come too late; hears as running does
    running   Removed       leaves
    ended     anything      nothing

Where each enrolment is about a deal, what happens to another deal is nothing to it; and who leaves it on a reply, or asks to
stop, leaves all of theirs in this workflow.

Who leaves on something that reached them, or ends by an answer, takes with them what has not gone out yet
(effects.CallOff). In which order signals are given is for engine.batch.

After that, moves are followed from line to line until one says stay or leave, or the script is out of
lines. Lines lead forward, or back to a loop that counts its passes (see workflow.program), so this ends; should it not, it raises
instead of holding up everybody else.
"""

from collections.abc import Sequence
from datetime import datetime
from typing import NamedTuple

from bluffside.core.channels.answers import is_opt_out
from bluffside.core.engine.effects import CallOff, Effect, StopOthers
from bluffside.core.engine.moves import ON, Into, Leave, Move, On, Stay
from bluffside.core.engine.replanning import in_case_it_moves, last_date, moved_by, replan
from bluffside.core.engine.signals import Happened, Joined, Removed, Replied, Signal, TimeReached
from bluffside.core.engine.state import FINISHED, SECOND_THOUGHTS, UNANSWERED, State
from bluffside.core.engine.turn import Reason, Turn
from bluffside.core.events import Event
from bluffside.core.facts import Facts
from bluffside.core.steps.booking_assistant import TAKEN_OVER, BookingAssistant
from bluffside.core.steps.end import BY_A_LINE, End
from bluffside.core.steps.wait_for_reply import WaitForReply
from bluffside.core.workflow.moving import to_come
from bluffside.core.workflow.program import GoesRoundTooOften, Program

# In one turn: a script of 1,000 lines whose loops are gone through a hundred times at once stays below.
MOST_MOVES = 100_000


class Outcome(NamedTuple):
    """`facts` are those that were given, changed by the effects."""

    state: State
    facts: Facts
    effects: Sequence[Effect] = ()
    reasons: Sequence[Reason] = ()


def advance(program: Program, state: State, facts: Facts, signal: Signal, now: datetime, more: bool = False) -> Outcome:
    """The next state, the effects and the reasons. `more`: something else is in hand that is to be heard before anything
    is sent.

    Pure: the same arguments give the same outcome. Raises `program.UnknownPlace` when the state
    stands at a step this program does not have, and `merge.BadTemplate` when a message cannot be rendered.
    """
    if state.ended:
        return Outcome(state, facts)
    about = signal.about if isinstance(signal, Joined) and signal.about else state.about
    turn = Turn(now, state, facts, program.hours, about, program.name)
    move = _first_move(program, turn, signal)
    if move is None:
        return Outcome(state, facts, (), turn.reasons)
    after = _follow(program, turn, move, more)
    if after.ended and state.place and _is_left_on(signal, move):
        turn.effects.insert(0, CallOff(state.place, state.round, f"they left before it went ({after.ended})"))
    reply = next((one for one in (signal, *getattr(signal, "meanwhile", ())) if isinstance(one, Replied)), None)
    if program.by_deal and reply and (after.ended or is_opt_out(turn.meant(reply))):
        turn.do(StopOthers(state.place, state.round, here=True))
    return Outcome(after, turn.facts, turn.effects, turn.reasons)


def _is_left_on(signal: Signal, move: Move) -> bool:
    """Whether the signal is why somebody leaves, and not the script, which may come to its end in the same turn."""
    return isinstance(signal, Replied) or (isinstance(move, Leave) and not isinstance(signal, TimeReached))


def _first_move(program: Program, turn: Turn, signal: Signal) -> Move | None:
    state = turn.state
    if isinstance(signal, TimeReached):
        if not state.place or state.until is None or turn.now < state.until:
            return None
        step = program.step(state.place)
        if state.finished:
            turn.answered = UNANSWERED  # the time for second thoughts is over
            return _finish(program, turn)
        # Who was moved to a line of another version (see workflow.moving) has not begun it yet.
        return step.begin(turn) if state.arrived is None else step.wake(turn)
    if isinstance(signal, Joined):
        if state.place:
            return None
        turn.because("Joined: {}.", signal.why)
        moves = (_first_move(program, turn, one) for one in signal.meanwhile)
        return next((move for move in moves if isinstance(move, Leave)), ON)
    if isinstance(signal, Replied):
        return _hear(program, turn, signal)
    if isinstance(signal, Happened):
        return _notice(program, turn, signal.event)
    if isinstance(signal, Removed):
        turn.because("Taken out: {}.", signal.why)
        return Leave(signal.why)
    raise TypeError(signal)


def _hear(program: Program, turn: Turn, reply: Replied) -> Move | None:
    if turn.state.listens:
        return program.step(turn.state.place).hear(turn, reply)
    if corrected := _corrected(program, turn, reply):
        return corrected
    if (assistant := _talks(program, turn)) and assistant.hear_later(turn, reply):
        return _as_they_are(turn)
    seen = {"reply": reply.text}
    if is_opt_out(turn.meant(reply)):
        withdrawn = Event("consent.withdrawn", turn.now, {"channel": reply.channel, "text": reply.text})
        move = _taken_notice_of(program, turn, withdrawn)
        if move is not None:
            return move
        turn.because("Leaves: the reply asks to stop.", seen=seen)
        return Leave("opted out")
    move = _notice(program, turn, reply.event(turn.now))
    if move is None:
        turn.because("Goes on: a reply came, and this workflow does not leave on it.", seen=seen)
    return move


def _as_they_are(turn: Turn) -> Move:
    """Where they stand, and for what."""
    turn.stopped = turn.state.stopped
    return Stay(turn.state.until or turn.now)


def _talks(program: Program, turn: Turn) -> BookingAssistant | None:
    """The line whose conversation goes on, though they stand elsewhere."""
    node = program.nodes.get(turn.talk[0]) if turn.talk else None
    return node.step if node and isinstance(node.step, BookingAssistant) else None


def _corrected(program: Program, turn: Turn, reply: Replied) -> Move | None:
    """Back to the wait whose answer led here, when this one is clearer and nothing has gone out by the first."""
    line, lane = turn.state.answered
    node = program.nodes.get(line)
    loops = turn.loops[: len(node.loops)] if node else ()
    if node is None or not isinstance(node.step, WaitForReply) or tuple(loop for loop, _ in loops) != node.loops:
        return None
    clearer = node.step.clearer(turn.meant(reply), lane)
    if not clearer:
        return None
    turn.do(CallOff(*turn.key, "they have answered more clearly", tuple(to_come(program, line))))
    turn.place, turn.round, turn.arrived = line, turn.round + 1, turn.now
    turn.go_round(loops)
    return node.step.correct(turn, reply, clearer)


def _notice(program: Program, turn: Turn, event: Event) -> Move | None:
    if event.kind == TAKEN_OVER and not turn.state.listens and turn.talk:
        turn.talk = None  # a person goes on with it
        return _as_they_are(turn)
    if program.by_deal and str(event.data.get("deal", "")) not in ("", turn.about.get("deal", "")):
        return None
    waits = turn.place and program.step(turn.place).waits == "answer"
    move = _taken_notice_of(program, turn, event) if waits else None
    if move is None:
        move = _left_on(program, turn, event)
    if move is None and (again := replan(program, turn, event)):
        turn.place, turn.round, turn.arrived = again.line, turn.round + 1, turn.now
        turn.go_round(again.loops)
        return program.step(again.line).begin(turn)
    if move is None and turn.state.finished and moved_by(event) in turn.planned:
        return _finish(program, turn)
    move = move or (None if waits else _taken_notice_of(program, turn, event))
    if event.kind == "reply.read" and event.data["wants_out"] and not isinstance(move, Into):
        turn.because("Leaves: what they wrote means that they want no more, says {}.", event.by or "the team")
        return Leave("opted out")
    return move


def _left_on(program: Program, turn: Turn, event: Event) -> Move | None:
    if turn.talk and _is_of_the_talk(program, turn, event):
        return None  # the lanes of the conversation say what follows
    for leaves in program.leaves_on:
        if leaves.admits(event, turn.case):
            seen = {"reply": str(event.data["text"])} if "text" in event.data else {}
            turn.because("Leaves {}.", leaves.describe(), seen=seen)
            return Leave("replied" if event.kind == "reply.received" else leaves.describe())
    return None


def _is_of_the_talk(program: Program, turn: Turn, event: Event) -> bool:
    assistant = _talks(program, turn)
    own = ("appointment.booked", "appointment.moved", "appointment.cancelled")
    return event.kind in own and assistant is not None and event.data["type"] == assistant.type


def _taken_notice_of(program: Program, turn: Turn, event: Event) -> Move | None:
    if not turn.state.place or turn.state.finished:
        return None
    return program.step(turn.state.place).notice(turn, event)


def _finish(program: Program, turn: Turn) -> Move:
    """Out of lines: leaves, unless something was planned by a date that is still to come and may move, or an answer that led
    here may still be corrected."""
    until = last_date(program, turn)
    if until is not None:
        in_case_it_moves(turn, until)
    if (assistant := _talks(program, turn)) and (booked := assistant.still_to_come(turn)):
        turn.because("Stays until {}: the booking assistant still hears them.", booked)
        until = max(booked, until or booked)
    if _may_be_corrected(program, turn):
        soon = turn.now + SECOND_THOUGHTS
        turn.because("Stays until {}, in case a clearer answer corrects the one before.", soon)
        until = max(soon, until or soon)
    if until is not None:
        return Stay(until)
    return Leave(BY_A_LINE if turn.place and isinstance(program.step(turn.place), End) else FINISHED)


def _may_be_corrected(program: Program, turn: Turn) -> bool:
    """Whether an answer has led to the end at once that could have taken another lane."""
    line, _ = turn.answered
    node = program.nodes.get(line)
    return bool(node and not node.loops and len(node.lanes) > 1 and turn.answered != turn.state.answered)


def _follow(program: Program, turn: Turn, move: Move, more: bool) -> State:
    node = program.node(turn.place) if turn.place else None
    finished = turn.state.finished and turn.place == turn.state.place
    finished = finished and (turn.round == turn.state.round or turn.talk is not turn.state.talk)
    for _ in range(MOST_MOVES):
        if isinstance(move, On):
            turn.place = node.after if node else program.first
        elif isinstance(move, Stay):
            return _state(turn, move.until, move.listens, finished)
        elif isinstance(move, Leave):
            if not (
                node
                and isinstance(node.step, End)
                and move.why == BY_A_LINE
                and (turn.talk or _may_be_corrected(program, turn))
            ):
                return _ended(turn, move.why)
            move, finished = _finish(program, turn), True
            if isinstance(move, Leave):  # nothing of it is still to come
                return _ended(turn, move.why)
            continue
        elif node and isinstance(move, Into):
            turn.place = node.lanes[move.lane]
        elif node:
            turn.place = node.over
        if not turn.place:
            turn.because("Came to the end of the script.")
            move, finished = _finish(program, turn), True
            turn.place = node.step.id if node else ""
            continue
        turn.arrived = turn.now
        node = program.nodes[turn.place]
        if more and node.step.speaks:
            turn.because("Hears first what else has come in.")
            return _state(turn, turn.now, False, False)._replace(arrived=None)
        move = node.step.begin(turn)
    raise GoesRoundTooOften(f"it goes round at {turn.place or 'its end'}")


def _state(turn: Turn, until: datetime, listens: bool, finished: bool) -> State:
    was = turn.state
    loops = () if finished else turn.loops
    return State(
        was.joined,
        turn.place,
        turn.arrived,
        until,
        listens,
        turn.round,
        "",
        loops,
        turn.about,
        was.by,
        was.depth,
        turn.deadline,
        turn.planned,
        finished,
        turn.answered,
        turn.stopped,
        turn.talk,
    )


def _ended(turn: Turn, why: str) -> State:
    was = turn.state
    return State(
        was.joined, "", turn.arrived, None, False, turn.round, why, (), turn.about, was.by, was.depth, turn.deadline
    )
