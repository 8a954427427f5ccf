"""What an enrolment does from where it stands, as things are: nobody answers, nothing else happens."""

from collections.abc import Iterator
from datetime import datetime
from typing import NamedTuple

from bluffside.core.engine.advance import advance
from bluffside.core.engine.effects import Effect
from bluffside.core.engine.signals import Joined, Signal, TimeReached
from bluffside.core.engine.state import State
from bluffside.core.facts import Facts
from bluffside.core.rehearsal.shared import Shared
from bluffside.core.workflow.program import Program

MOST_TURNS = 500
BEGINS: Signal = Joined()


class Ahead(NamedTuple):
    """One thing it will do, and when (UTC)."""

    at: datetime
    effect: Effect


def ahead(program: Program, state: State, facts: Facts, now: datetime, until: datetime) -> Iterator[Ahead]:
    """What it does up to an instant (inclusive), in order. Who has not begun begins now; what is overdue happens now.
    Pure: `advance` decides, and what it changes about the contact counts for what follows."""
    shared = Shared(facts.account)
    for _ in range(MOST_TURNS):
        if not state.place and not state.ended:
            at, signal = now, BEGINS
        elif state.until is not None and state.until <= until:
            at, signal = max(state.until, now), TimeReached()
        else:
            return
        outcome = advance(program, state, facts, signal, at)
        after = outcome.facts
        for decided in outcome.effects:
            effect = shared.resolved(decided)
            if effect is not decided:  # whose turn it is, which later lines may go by
                after = effect.changes(after, at)
            yield Ahead(at, effect)
        if outcome.state == state:
            return
        state, facts = outcome.state, after
