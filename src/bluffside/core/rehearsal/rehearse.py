"""One contact played through one workflow against made-up time. Nothing real is sent.

Time jumps from one moment something happens to the next: a wait that ends, or an answer. Answers are
given by instant (a file of events) or by line (the workflow page: "at this wait, say this after so long").
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from bluffside.core.channels.consent import is_opt_out
from bluffside.core.engine.advance import advance
from bluffside.core.engine.effects import Effect, SendMessage, apply
from bluffside.core.engine.signals import Joined, Removed, Replied, Signal, TimeReached
from bluffside.core.engine.state import State
from bluffside.core.engine.turn import Reason
from bluffside.core.facts import Contact, Facts
from bluffside.core.timing.durations import Duration
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.program import compile_workflow

MOST_MOMENTS = 5_000


@dataclass(frozen=True, slots=True)
class Answer:
    """What the contact says at a wait, so long after it began; `text` None: says nothing until the limit."""

    text: str | None
    after: Duration = Duration(0, "minute")


@dataclass(frozen=True, slots=True)
class Moment:
    """One instant at which something happened: what reached the enrolment, what it did, and why."""

    at: datetime
    signal: Signal
    state: State
    effects: Sequence[Effect]
    reasons: Sequence[Reason]


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """`awaits` is the line at which the rehearsal stopped for an answer nobody has given yet; else empty."""

    moments: Sequence[Moment]
    contact: Contact
    state: State
    awaits: str = ""

    @property
    def effects(self) -> list[tuple[datetime, Effect]]:
        return [(moment.at, effect) for moment in self.moments for effect in moment.effects]

    @property
    def messages(self) -> list[tuple[datetime, SendMessage]]:
        return [(at, effect) for at, effect in self.effects if isinstance(effect, SendMessage)]


def rehearse(
    workflow: Workflow,
    facts: Facts,
    joined: datetime,
    events: Sequence[tuple[datetime, Replied | Removed]] = (),
    answers: Mapping[str, Answer] | None = None,
) -> Rehearsal:
    """Plays the workflow to its end.

    `events` happen at their instants, whatever the contact is at. With `answers` (by the id of a wait), the
    rehearsal stops at the first wait that has none; without (None), such waits run to their limit.
    """
    program = compile_workflow(workflow)
    state = State(joined)
    moments: list[Moment] = []
    coming = sorted(events, key=lambda event: event[0])

    def happen(signal: Signal, at: datetime) -> None:
        nonlocal state, facts
        if isinstance(signal, Replied) and is_opt_out(signal.text):
            contact = facts.contact
            facts = replace(facts, contact=replace(contact, opted_out=contact.opted_out | {signal.channel}))
        outcome = advance(program, state, facts, signal, at)
        state = outcome.state
        for effect in outcome.effects:
            facts = replace(facts, contact=apply(facts.contact, effect))
        moments.append(Moment(at, signal, state, outcome.effects, outcome.reasons))

    happen(Joined("rehearsed"), joined)
    while state.running and state.until and len(moments) < MOST_MOMENTS:
        if coming and coming[0][0] <= state.until:
            at, signal = coming.pop(0)
            happen(signal, max(at, joined))
            continue
        if state.listens and answers is not None:
            answer = answers.get(state.place)
            if answer is None:
                return Rehearsal(moments, facts.contact, state, awaits=state.place)
            said_at = answer.after.after(state.arrived or joined, facts.zone)
            if answer.text is not None and said_at < state.until:
                happen(Replied(answer.text), said_at)
                continue
        happen(TimeReached(), state.until)
    for at, signal in coming:  # after the end only consent still changes
        happen(signal, at)
    return Rehearsal(moments, facts.contact, state)
