"""What a batch is to those who decide and to those who write: each enrolment with all that was decided about it."""

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import datetime

from bluffside.core.engine.advance import Outcome, advance
from bluffside.core.engine.effects import Effect
from bluffside.core.engine.signals import Signal as CoreSignal
from bluffside.core.engine.state import State
from bluffside.core.engine.turn import Reason
from bluffside.core.events import Event as CoreEvent
from bluffside.core.facts import Facts
from bluffside.core.workflow.program import Program
from bluffside.server.events.stream import Cause
from bluffside.server.people.changes import Changed
from bluffside.server.practice.models import Account
from bluffside.server.workflows.bookings import Bookings, NotBooked
from bluffside.server.workflows.rotation import Rotations

MOST_TRIES = 20  # at a time that others book at the same moment


@dataclass(slots=True)
class Advanced:
    """One enrolment with all that this batch decided about it."""

    id: int
    workflow_id: int
    workflow: str
    version_id: int
    contact_id: int
    responsible_id: int | None
    why: str
    about: dict[str, str]
    begun: bool
    due_at: datetime
    state: State
    effects: list[Effect] = field(default_factory=list)
    events: list[CoreEvent] = field(default_factory=list)
    reasons: list[Reason] = field(default_factory=list)
    was_ended: bool = False
    paused: bool = False

    @property
    def cause(self) -> Cause:
        return Cause(enrolment_id=self.id, depth=self.state.depth + 1)

    def key(self, effect: Effect) -> str:
        """What is done once: of this enrolment, this step, this round."""
        return f"e{self.id}:{effect.step}:{effect.round}"

    def advance(
        self,
        program: Program,
        facts: Facts,
        signal: CoreSignal,
        now: datetime,
        turns: Rotations,
        bookings: Bookings,
        more: bool = False,
    ) -> Facts:
        outcome, effects = self._decide(program, facts, signal, now, bookings, more)
        self.state = outcome.state
        self.reasons += outcome.reasons
        after = outcome.facts
        for decided in effects:
            effect = turns.resolved(decided)
            self.effects.append(effect)
            if event := effect.event(facts, now):
                self.events.append(event)
            if len(effects) > 1:
                facts = effect.changes(facts, now)
            if effect is not decided:
                after = effect.changes(after, now)
        return after

    def _decide(
        self, program: Program, facts: Facts, signal: CoreSignal, now: datetime, bookings: Bookings, more: bool
    ) -> tuple[Outcome, Sequence[Effect]]:
        """What is decided, with what it books booked; taken again where somebody was quicker to book that (bookings.py)."""
        for _ in range(MOST_TRIES):
            outcome = advance(program, self.state, facts, signal, now, more)
            with suppress(NotBooked):
                return outcome, bookings.carried_out(self.contact_id, outcome.effects, self.cause)
        raise NotBooked("Others were quicker too often.")


@dataclass(frozen=True, slots=True)
class Batch:
    """What a batch decided. `changed`: the contacts as they were and as they are now."""

    account: Account
    now: datetime
    done: Sequence[Advanced]
    changed: Sequence[Changed]
