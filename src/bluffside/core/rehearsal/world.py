"""A world in memory: any number of contacts and workflows, and made-up time that jumps from one moment at which
something happens to the next.

The queue holds what is to come: an enrolment's wait that ends, something that happens to a contact, a date that
comes round. What comes at one instant goes in a fair order: what happens first, then enrolments whose message
waits, by the rule of care.limits. Effects put events on the stream as the server's do, so workflows start,
stop and hand over to one another here as there.

`run` yields each moment and keeps none, so memory does not grow with time, only with contacts.
"""

from collections import defaultdict, deque
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from heapq import heappop, heappush
from itertools import chain, count
from types import MappingProxyType
from typing import Any, NamedTuple

from bluffside.core.care.limits import Waiting, turn_order
from bluffside.core.care.pace import Bucket, Pace
from bluffside.core.channels.keywords import keyword
from bluffside.core.conditions import Case
from bluffside.core.engine.advance import advance
from bluffside.core.engine.effects import (
    Assignee,
    Effect,
    HandOver,
    MakeTask,
    Notify,
    SendMessage,
    SetOwner,
    StopOthers,
)
from bluffside.core.engine.signals import Happened, Joined, Removed, Replied, Signal, TimeReached
from bluffside.core.engine.state import DEEPEST, State
from bluffside.core.engine.turn import NEVER, Reason
from bluffside.core.events import Event
from bluffside.core.facts import Account, Contact, Facts, Member
from bluffside.core.rehearsal.coming import MOVED_BY, Coming, by_time_alone, event_of, expected
from bluffside.core.rehearsal.happening import absorb, named
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.steps.speaking import Speaking
from bluffside.core.triggers.date_comes import DateComes
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.entering import Before, started_by, why_not
from bluffside.core.workflow.program import Program, compile_workflow

NOBODY = Member()
AT_ONCE: Mapping[int, datetime] = MappingProxyType({})


class Moment(NamedTuple):
    """One instant at which something reached an enrolment: what it was, what it did, and why. `goes` is when each of
    its messages leaves, by its place among the effects, where a sender's speed holds it up."""

    at: datetime
    contact: str
    workflow: str
    signal: Signal
    state: State
    effects: Sequence[Effect]
    reasons: Sequence[Reason]
    goes: Mapping[int, datetime] = AT_ONCE


@dataclass(slots=True)
class _Inside:
    """A running enrolment."""

    number: int
    contact: str
    program: Program
    state: State


@dataclass(frozen=True, slots=True)
class _Act:
    """Something that happens to a contact from outside."""

    contact: str
    what: Event | Replied | Removed


@dataclass(frozen=True, slots=True)
class _Enrol:
    contact: str
    workflow: str
    why: str
    about: Mapping[str, str]
    by: str


_Due = _Inside | _Act | Coming | _Enrol
FIRST = (-1, NEVER, "")
MOVES = frozenset(chain.from_iterable(MOVED_BY.values()))


class World:
    """`rules` are the account's lead score rules: what happens earns points by them."""

    def __init__(
        self,
        workflows: Sequence[Workflow],
        account: Account,
        member: Member = NOBODY,
        rules: ScoreRules | None = None,
    ) -> None:
        self.account, self.member, self.rules = account, member, rules
        self.workflows = {one.name: one for one in workflows}
        self.programs = {one.name: compile_workflow(one) for one in workflows}
        self.contacts: dict[str, Contact] = {}
        self.member_turns: dict[tuple[str, ...], int] = defaultdict(int)
        self.left_out: list[tuple[str, str, str]] = []  # contact, workflow, why
        self._queue: list[tuple[datetime, tuple[int, datetime, str], int, _Due]] = []
        self._numbers = count()
        self._inside: dict[str, list[_Inside]] = defaultdict(list)
        self._ended: dict[tuple[str, str], datetime] = {}
        self._buckets: dict[tuple[str, str], Bucket] = {}
        self._news: deque[tuple[str, Event, _Inside | None]] = deque()
        needs = frozenset().union(*(program.needs for program in self.programs.values()))
        self._remembers = "happened" in needs or bool(account.care.limits) or rules is not None
        self._kinds = frozenset().union(
            *(program.hears for program in self.programs.values()),
            *(start.listens_to for one in workflows for start in one.starts),
            *(rule.on.listens_to for rule in (rules.doing if rules else ())),
            MOVES,
        )
        self._alive = 0  # enrolments that run, and what is set up to happen
        self._dated = by_time_alone([trigger for one in workflows for trigger in one.starts])
        self._expected: set[tuple[datetime, str, int, str]] = set()

    # ---- setting it up

    def add(self, contact: Contact, at: datetime) -> None:
        """A contact, known by its id; dates that come round for it are counted from an instant."""
        self.contacts[contact.id] = contact
        self._expect(contact, "", at)

    def enrol(
        self,
        contact: str,
        workflow: str,
        at: datetime,
        why: str = "rehearsed",
        about: Mapping[str, str] | None = None,
        by: str = "",
    ) -> None:
        """Have a contact enrolled at an instant, as far as the entry rules let them."""
        self._push(at, FIRST, _Enrol(contact, workflow, why, about or {}, by))

    def happen(self, contact: str, at: datetime, what: Event | Replied | Removed) -> None:
        """Have something happen to a contact at an instant."""
        self._push(at, FIRST, _Act(contact, what))

    def facts(self, contact: str) -> Facts:
        known = Facts(self.contacts[contact], self.account, self.member, self._remembers)
        return known.with_owner(known.contact.owner) if known.contact.owner else known

    def inside(self, contact: str) -> dict[str, State]:
        """The contact's running enrolments, by workflow."""
        return {one.program.name: one.state for one in self._inside.get(contact, ())}

    # ---- running it

    def run(self, until: datetime | None = None) -> Iterator[Moment]:
        """Every moment up to an instant (inclusive), in order; without one, until nobody is inside and nothing is
        set up to happen. More may be set up between two moments."""
        while self._queue and (self._alive if until is None else self._queue[0][0] <= until):
            at, _, _, due = heappop(self._queue)
            self._alive -= isinstance(due, _Act | _Enrol)
            if isinstance(due, _Inside):
                if due.state.until == at and not due.state.ended:
                    yield self._advance(due, TimeReached(), at)
            elif isinstance(due, _Act):
                yield from self._act(due, at)
            elif isinstance(due, _Enrol):
                yield from self._enrol(due.contact, due.workflow, due.why, due.about, due.by, 0, at)
            else:
                self._come(due, at)
            while self._news:
                yield from self._spread(*self._news.popleft())

    def _push(self, at: datetime, order: tuple[int, datetime, str], due: _Due) -> None:
        self._alive += isinstance(due, _Act | _Enrol)
        heappush(self._queue, (at, order, next(self._numbers), due))

    def _advance(self, one: _Inside, signal: Signal, at: datetime) -> Moment:
        outcome = advance(one.program, one.state, self.facts(one.contact), signal, at)
        before, one.state = one.state, outcome.state
        effects = [self._resolved(effect) for effect in outcome.effects]
        goes = AT_ONCE
        if effects:
            goes = self._paced(effects, at)
            after = outcome.facts
            for decided, effect in zip(outcome.effects, effects, strict=True):
                after = after if effect is decided else effect.changes(after, at)
            self._carry_out(one, effects, after.contact, at)
        if one.state.ended:
            self._inside[one.contact].remove(one)
            self._alive -= 1
            self._ended[one.contact, one.program.name] = at
        elif one.state.until is not None and (one.state.until != before.until or isinstance(signal, TimeReached)):
            self._push(one.state.until, self._order(one), one)
        return Moment(at, one.contact, one.program.name, signal, one.state, effects, outcome.reasons, goes)

    def _order(self, one: _Inside) -> tuple[int, datetime, str]:
        step = one.program.step(one.state.place)
        purpose = step.purpose if isinstance(step, Speaking) else "service"
        return turn_order(Waiting(purpose, one.state.arrived or one.state.joined, f"{one.number:012}"))

    def _carry_out(self, one: _Inside, effects: Sequence[Effect], after: Contact, at: datetime) -> None:
        """Keeps what the effects changed, and puts their events on the stream."""
        facts = self.facts(one.contact)
        for effect in effects:
            event = effect.event(facts, at)
            if event and (event.kind in self._kinds or self._remembers):
                self._news.append((one.contact, event, one))
            if len(effects) > 1:
                facts = effect.changes(facts, at)
            self._go_elsewhere(one, effect, at)
        self.contacts[one.contact] = after

    def _go_elsewhere(self, one: _Inside, effect: Effect, at: datetime) -> None:
        if isinstance(effect, HandOver):
            handed = {"workflow": effect.workflow, "from": one.program.name, **effect.about}
            self._news.append((one.contact, Event("workflow.handed_over", at, handed), one))
        elif isinstance(effect, StopOthers):
            data: dict[str, Any] = {"workflows": effect.workflows, "from": one.program.name}
            self._news.append((one.contact, Event("others.stopped", at, data), one))

    def _act(self, act: _Act, at: datetime) -> Iterator[Moment]:
        """Something from outside: the contact changes first, then enrolments hear of it."""
        what = act.what
        if isinstance(what, Removed):
            for one in list(self._inside[act.contact]):
                yield self._advance(one, what, at)
            return
        if isinstance(what, Replied):
            yield from self._reply(act.contact, what, at)
            return
        event = named(self.contacts[act.contact], replace(what, at=at))
        self.contacts[act.contact] = absorb(self.contacts[act.contact], event)
        self._news.append((act.contact, event, None))

    def _reply(self, contact: str, reply: Replied, at: datetime) -> Iterator[Moment]:
        """Words that opt out or in act at once; those inside hear the reply itself, which says so too."""
        happened = [reply.event(at)]
        said = keyword(reply.text)
        if said in ("out", "in"):
            kind = "consent.withdrawn" if said == "out" else "consent.given"
            happened.insert(0, Event(kind, at, {"channel": reply.channel, "text": reply.text}))
            self.contacts[contact] = absorb(self.contacts[contact], happened[0])
        for one in list(self._inside[contact]):
            yield self._advance(one, reply, at)
        for event in happened:
            self._remember(contact, event)
            yield from self._start(contact, event, None)

    def _remember(self, contact: str, event: Event) -> None:
        if self._remembers and (not self.contacts[contact].happened or self.contacts[contact].happened[-1] != event):
            known = self.contacts[contact]
            self.contacts[contact] = known.changed(happened=(*known.happened, event))
            if self.rules and event.kind != "score.changed":
                self._score(contact, self.rules, event)

    def _score(self, contact: str, rules: ScoreRules, event: Event) -> None:
        facts = self.facts(contact)
        known, earned = facts.contact, rules.after(facts.contact.score, event, facts)
        facts = facts.with_contact(score=earned)
        score = rules.standing(facts, event.at)
        old, new = known.score.at(event.at), score.at(event.at)
        self.contacts[contact] = known.changed(score=score)
        if old != new:
            self._news.append((contact, Event("score.changed", event.at, {"old": old, "new": new}), None))

    def _spread(self, contact: str, event: Event, cause: _Inside | None) -> Iterator[Moment]:
        """Tells running enrolments of an event, then starts what starts on it."""
        if event.kind == "others.stopped":
            named = event.data["workflows"]
            for one in list(self._inside[contact]):
                if one is not cause and (not named or one.program.name in named):
                    yield self._advance(one, Removed(f"stopped by “{event.data['from']}”"), event.at)
            return
        if event.kind != "message.sent" or cause is None:  # its own message is in its facts already
            self._remember(contact, event)
        for one in list(self._inside[contact]):
            if event.kind in one.program.hears and not one.state.ended:
                moment = self._advance(one, Happened(event), event.at)
                if moment.reasons:
                    yield moment
        if event.kind in MOVES:
            self._expect(self.contacts[contact], event.kind, event.at)
        yield from self._start(contact, event, cause)

    def _start(self, contact: str, event: Event, cause: _Inside | None) -> Iterator[Moment]:
        depth = cause.state.depth + 1 if cause else 0
        for name, workflow in self.workflows.items():
            if event.kind == "workflow.handed_over" and event.data["workflow"] != name:
                continue
            trigger = started_by(workflow, event, Case(self.facts(contact), event.at))
            if trigger is None:
                if event.kind == "workflow.handed_over":
                    self.left_out.append((contact, name, "it does not start by being handed over"))
            elif depth > DEEPEST:
                self.left_out.append((contact, name, "too many workflows in a chain"))
            else:
                about, why = trigger.about(event), trigger.describe()
                yield from self._enrol(contact, name, why, about, event.by, depth, event.at)

    def _enrol(
        self, contact: str, name: str, why: str, about: Mapping[str, str], by: str, depth: int, at: datetime
    ) -> Iterator[Moment]:
        program, entry = self.programs[name], self.workflows[name].entry
        inside = any(one.program is program for one in self._inside[contact])
        ended = self._ended.get((contact, name))
        before = Before(None) if inside else Before(ended) if ended else None
        refused = why_not(entry, Case(self.facts(contact), at), before)
        if refused:
            self.left_out.append((contact, name, refused))
            return
        state = State(at, about=about, by=by, depth=depth)
        one = _Inside(next(self._numbers), contact, program, state)
        self._inside[contact].append(one)
        self._alive += 1
        yield self._advance(one, Joined(why, about), at)

    # ---- what comes by time alone

    def _expect(self, contact: Contact, kind: str, after: datetime) -> None:
        """Expects the next moments of triggers that an event of a kind may have moved; of all, without a kind."""
        zone = contact.zone or self.account.zone
        for trigger in self._dated:
            if kind and kind not in MOVED_BY[type(trigger)]:
                continue
            for at, coming in expected(contact, trigger, after, zone):
                known = (at, contact.id, id(trigger), coming.appointment)
                if known not in self._expected:
                    self._expected.add(known)
                    self._push(at, FIRST, coming)

    def _come(self, due: Coming, at: datetime) -> None:
        contact = self.contacts[due.contact]
        self._expected.discard((at, contact.id, id(due.trigger), due.appointment))
        event = event_of(due, contact, at, contact.zone or self.account.zone)
        if event:
            self._news.append((due.contact, event, None))
        if isinstance(due.trigger, DateComes):
            self._expect(contact, "field.changed", at)

    # ---- senders and members

    def _paced(self, effects: Sequence[Effect], at: datetime) -> dict[int, datetime]:
        paces, goes = self.account.care.pace, dict[int, datetime]()
        for index, effect in enumerate(effects if paces else ()):
            if isinstance(effect, SendMessage) and not effect.held:
                pace: Pace | None = paces.get(effect.sender) or paces.get("")
                if pace:
                    sender = effect.channel, effect.sender
                    bucket, goes[index] = self._buckets.get(sender, Bucket()).take(pace, at)
                    self._buckets[sender] = bucket
        return goes

    def _resolved(self, effect: Effect) -> Effect:
        """Who is next in turn is named."""
        if not isinstance(effect, MakeTask | Notify | SetOwner) or effect.assignee.to != "in_turn":
            return effect
        team = effect.assignee.members
        self.member_turns[team] += 1
        chosen = team[(self.member_turns[team] - 1) % len(team)] if team else ""
        return replace(effect, assignee=Assignee("member", (chosen,)))
