"""A world in memory: any number of contacts and workflows, and made-up time that jumps from one moment at which
something happens to the next.

The queue holds what is to come: an enrolment's wait that ends, something that happens to a contact, a date that
comes round. It is played in batches, as the server's engine works: what has happened by a batch's moment is handed on
first, then enrolments are advanced, each as engine.batch says, in a fair order (care.limits). Effects put events on the
stream as the server's do, so workflows start, stop and hand over to one another here as there. Each instant at which
something happens is a batch of its own, unless the moments of batches are given: then lateness can be rehearsed.

`run` yields each moment and keeps none, so memory does not grow with time, only with contacts.
"""

from bisect import bisect_left
from collections import defaultdict, deque
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from heapq import heappop, heappush
from itertools import chain, count
from typing import Any

from bluffside.core.care.limits import Waiting, turn_order
from bluffside.core.channels.answers import is_likely_opt_out, keyword, meant
from bluffside.core.conditions import Case
from bluffside.core.engine.advance import advance
from bluffside.core.engine.batch import in_order
from bluffside.core.engine.effects import Effect, SendMessage
from bluffside.core.engine.signals import Happened, Joined, Removed, Replied, Signal
from bluffside.core.engine.state import DEEPEST, FINISHED, State
from bluffside.core.engine.turn import NEVER
from bluffside.core.events import Event
from bluffside.core.facts import Account, Contact, Facts, Member
from bluffside.core.rehearsal.aims import Aims
from bluffside.core.rehearsal.coming import MOVED_BY, Coming, by_time_alone, event_of, expected
from bluffside.core.rehearsal.happening import absorb, changes_nothing, named
from bluffside.core.rehearsal.hearing import hear, note_said, told_to_others
from bluffside.core.rehearsal.moments import AT_ONCE, Act, Enrol, Inside, Looked, Moment, News
from bluffside.core.rehearsal.score_keeping import ScoreKeeping
from bluffside.core.rehearsal.shared import Shared
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import CHANNEL_KINDS
from bluffside.core.triggers.date_comes import DateComes
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.entering import Before, chain_ends, kept_out, once_for, started_by
from bluffside.core.workflow.program import Program, compile_workflow

NOBODY = Member()
_Due = Inside | Act | Coming | Enrol | Looked
FIRST = (-1, NEVER, "")
UNREMEMBERED = ("message.sent", "others.stopped")  # in the facts already; nothing to look back on
MOVES = frozenset(chain.from_iterable(MOVED_BY.values()))


class World:
    """`rules` are the account's lead score rules: what happens earns points by them. `batches`: the moments of batches in
    order; after the last, each instant is a batch of its own, as it is without them. `lets_go`: as if somebody let each held
    message go at once; else they stay held. `programs`: the workflows compiled, by name, where somebody has them."""

    def __init__(
        self,
        workflows: Sequence[Workflow],
        account: Account,
        member: Member = NOBODY,
        rules: ScoreRules | None = None,
        batches: Sequence[datetime] = (),
        lets_go: bool = False,
        programs: Mapping[str, Program] | None = None,
    ) -> None:
        self._batches, self._lets_go = batches, lets_go
        self._shared = Shared(account)
        self.account, self.member = replace(account, free=self._shared.free), member
        self.workflows = {one.name: one for one in workflows}
        self.programs = programs or {one.name: compile_workflow(one) for one in workflows}
        self.contacts: dict[str, Contact] = {}
        self.left_out = list[tuple[str, str, str]]()  # contact, workflow, why
        self._said = list[Moment]()  # what is only said
        self._queue: list[tuple[datetime, tuple[int, datetime, str], int, _Due]] = []
        self._numbers = count()
        self._inside: dict[str, list[Inside]] = defaultdict(list)
        self._ended = dict[tuple[str, str, str], datetime]()  # contact, workflow, the deal it was once for
        self._news, self._due = deque[News](), list[Inside]()  # due: at this batch, beside those whose time has come
        looks_back = any("happened" in one.needs for one in self.programs.values())
        self._remembers = looks_back or bool(account.care.limits) or rules is not None
        self._kinds = frozenset().union(
            *(program.hears for program in self.programs.values()),
            *(start.listens_to for one in workflows for start in one.starts),
            *(rule.on.listens_to for rule in (rules.doing if rules else ())),
            *(one.aim.listens_to() for one in workflows if one.aim),
            MOVES,
        )
        self.aims = Aims()
        self._alive = 0  # enrolments, and what is set up to happen
        self._dated = by_time_alone([trigger for one in workflows for trigger in one.starts])
        self._scores = ScoreKeeping(rules) if rules else None
        self._expected: set[tuple[datetime, str, int, str]] = set()

    # ---- setting it up

    def add(self, contact: Contact, at: datetime) -> None:
        """A contact, known by its id; dates that come round for it are counted from an instant."""
        self.contacts[contact.id] = contact
        self._expect(contact, "", at)
        self._look_ahead(contact.id, at)

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
        self._push(at, FIRST, Enrol(contact, workflow, why, about or {}, by))

    def resume(self, contact: str, program: Program, state: State, now: datetime, joined: Joined | None = None) -> None:
        """Somebody who is inside already, where they stand; `joined` for who has not begun. What is overdue comes now."""
        about = joined.about if joined else state.about
        deal = about.get("deal", "") if program.by_deal else ""
        one = Inside(next(self._numbers), contact, program, state, joined, once_for=deal)
        self._inside[contact].append(one)
        self._alive += 1
        self._kinds |= program.hears
        self._remembers |= "happened" in program.needs
        until = now if joined else state.until
        if until is not None:
            one.queued = max(until, now)
            self._push(one.queued, self._order(one), one)

    def was_inside(self, contact: str, workflow: str, until: datetime, once_for: str = "") -> None:
        """Somebody, or a deal of theirs, that left a workflow at an instant, as far as its entry rules ask."""
        self._ended[contact, workflow, once_for] = until

    def happen(self, contact: str, at: datetime, what: Event | Replied | Removed) -> None:
        """Have something happen to a contact at an instant."""
        self._push(at, FIRST, Act(contact, what))

    def facts(self, contact: str) -> Facts:
        known = Facts(self.contacts[contact], self.account, self.member, self._remembers)
        return known.with_owner(known.contact.owner) if known.contact.owner else known

    def inside(self, contact: str) -> dict[str, State]:
        """The contact's running enrolments, by workflow."""
        return {one.program.name: one.state for one in self._inside.get(contact, ())}

    # ---- running it

    def run(self, until: datetime | None = None) -> Iterator[Moment]:
        """Every moment up to an instant (inclusive), in order; without one, until nothing is left to happen. More may be
        set up between two moments."""
        queue = self._queue
        while queue and (self._alive if until is None else self._batch_of(queue[0][0]) <= until):
            at = self._batch_of(queue[0][0])
            if at >= NEVER:  # who waits for something that does not come by itself
                return
            due = []
            while queue and queue[0][0] <= at:
                instant, _, _, what = heappop(queue)
                if isinstance(what, Inside):
                    what.queued = None
                    due.append(what)
                else:
                    self._happens(what, instant, at)
            while due or self._news or self._due:
                while self._news:
                    self._hand_on(self._news.popleft(), at)
                yield from self._said
                self._said.clear()
                if self._due:
                    due = sorted((*due, *self._due), key=lambda one: self._turn(one, at))
                    self._due = []
                for one in due:
                    yield from self._play(one, at)
                due = []

    def _batch_of(self, instant: datetime) -> datetime:
        """The moment of the batch that finds what is due at an instant."""
        place = bisect_left(self._batches, instant)
        return self._batches[place] if place < len(self._batches) else instant

    def _push(self, at: datetime, order: tuple[int, datetime, str], due: _Due) -> None:
        self._alive += isinstance(due, Act | Enrol)
        heappush(self._queue, (at, order, next(self._numbers), due))

    def _play(self, one: Inside, at: datetime) -> Iterator[Moment]:
        joined, heard = one.joined, one.heard
        one.joined, one.heard = None, []
        for signal, more in in_order(one, heard, at, joined):
            moment = self._advance(one, signal, at, more)
            if moment.reasons or not isinstance(signal, Happened):
                yield moment
        until = one.state.until
        if until is not None and until != one.queued:
            one.queued = until
            self._push(until, self._order(one), one)

    def _advance(self, one: Inside, signal: Signal, at: datetime, more: bool) -> Moment:
        ran = not one.state.ended
        outcome = advance(one.program, one.state, self.facts(one.contact), signal, at, more)
        one.state = outcome.state
        effects = [self._shared.resolved(effect) for effect in outcome.effects]
        goes = AT_ONCE
        if effects:
            goes = self._shared.goes(effects, at)
            after = outcome.facts
            for decided, effect in zip(outcome.effects, effects, strict=True):
                after = after if effect is decided else effect.changes(after, at)
            self._carry_out(one, effects, after.contact, at)
        if one.state.ended and ran:
            self._left(one, at)
        return Moment(at, one.contact, one.program.name, signal, one.state, effects, outcome.reasons, goes)

    def _left(self, one: Inside, at: datetime) -> None:
        self._inside[one.contact].remove(one)
        self._alive -= 1
        self._ended[one.contact, one.program.name, one.once_for] = at

    def _turn(self, one: Inside, at: datetime) -> tuple[datetime, tuple[int, datetime, str]]:
        """Whose turn it is in a batch: what is due first comes first; then the fair order."""
        until = one.state.until
        return at if one.heard or until is None else until, self._order(one)

    def _order(self, one: Inside) -> tuple[int, datetime, str]:
        node = one.program.nodes.get(one.state.place)
        purpose = node.step.purpose if node and isinstance(node.step, Speaking) else "service"
        return turn_order(Waiting(purpose, one.state.arrived or one.state.joined, f"{one.number:012}"))

    def _carry_out(self, one: Inside, effects: Sequence[Effect], after: Contact, at: datetime) -> None:
        """Keeps what the effects changed, and puts their events on the stream."""
        facts, news = self.facts(one.contact), list[News]()
        for effect in effects:
            if isinstance(effect, SendMessage) and (self._lets_go or not effect.held):
                note_said(one, effect, at)
            self._shared.book(one.contact, effect)
            event = effect.event(facts, at)
            if event and (event.kind in self._kinds or self._remembers):
                news.append(News(one.contact, event, one))
            if len(effects) > 1:
                facts = effect.changes(facts, at)
            for event in self._elsewhere(one, effect, at):
                news.append(News(one.contact, event, one))
        self.contacts[one.contact] = after
        for told in news:
            if told.event.kind not in UNREMEMBERED:
                self._remember(told.contact, told.event)
        self._news += news

    def _elsewhere(self, one: Inside, effect: Effect, at: datetime) -> Iterator[Event]:
        """What is heard of an effect beside its own event."""
        yield from told_to_others(one, effect, at)
        if isinstance(effect, SendMessage) and effect.held and self._lets_go:
            told: dict[str, Any] = {"message": effect.name, "step": effect.step, "round": effect.round}
            yield Event("message.let_go", at, {**told, "goes": at}, "somebody")
            if sent := replace(effect, held=False).event(self.facts(one.contact), at):
                yield sent

    def _happens(self, what: "Act | Coming | Enrol | Looked", instant: datetime, at: datetime) -> None:
        """Something from outside, at its instant, in the batch of a moment: the contact changes first, then it is handed
        on."""
        if isinstance(what, Coming):
            self._come(what, instant)
            return
        if isinstance(what, Looked):
            if self._scores and self._scores.is_due(what.contact, instant):
                self._score(what.contact, at)
            return
        self._alive -= 1
        if isinstance(what, Enrol):
            self._enrol(what.contact, what.workflow, what.why, what.about, what.by, 0, at)
        elif isinstance(what.what, Removed):
            for one in self._inside[what.contact]:
                self._tell(one, what.what)
        elif isinstance(what.what, Replied):
            self._reply(what.contact, what.what, instant)
        else:
            known = self.contacts[what.contact]
            event = named(known, replace(what.what, at=instant))
            if not changes_nothing(known, event):
                self._absorb(News(what.contact, event))

    def _reply(self, contact: str, reply: Replied, at: datetime) -> None:
        """Words that opt out or in act at once; those inside hear the reply itself, which says so too."""
        heard = meant(reply.text, self.account.care)
        said = keyword(heard)
        if said == "help" and CHANNEL_KINDS[reply.channel].keywords:  # answered, and no answer to anything
            return
        if is_likely_opt_out(heard):
            held = self.contacts[contact].held | {reply.channel}
            self.contacts[contact] = self.contacts[contact].changed(held=held)
        if said in ("out", "in"):
            kind = "consent.withdrawn" if said == "out" else "consent.given"
            event = Event(kind, at, {"channel": reply.channel, "text": reply.text})
            self._absorb(News(contact, event, acted=True))
        self._absorb(News(contact, reply.event(at), reply=reply))

    def _absorb(self, news: News) -> None:
        self.contacts[news.contact] = absorb(self.contacts[news.contact], news.event)
        self._remember(news.contact, news.event)
        self._news.append(news)

    def _tell(self, one: Inside, signal: Signal) -> None:
        one.heard.append(signal)
        if one not in self._due:
            self._due.append(one)

    def _remember(self, contact: str, event: Event) -> None:
        if self._remembers and (not self.contacts[contact].happened or self.contacts[contact].happened[-1] != event):
            known = self.contacts[contact]
            self.contacts[contact] = known.changed(happened=(*known.happened, event))

    def _score(self, contact: str, at: datetime, event: Event | None = None) -> None:
        if self._scores is None:
            return
        self.contacts[contact], changed = self._scores.after(self.facts(contact), at, event)
        for one in changed:
            self._remember(contact, one)
            self._news.append(News(contact, one))
        self._look_ahead(contact, at)

    def _look_ahead(self, contact: str, at: datetime) -> None:
        if self._scores and (again := self._scores.ahead(self.facts(contact), at)):
            self._push(again, FIRST, Looked(contact))

    def _hand_on(self, news: News, at: datetime) -> None:
        """Lets the lead score and running enrolments hear of an event, then starts what starts on it."""
        contact, event, cause = news.contact, news.event, news.cause
        if event.kind not in ("score.changed", "others.stopped"):
            self._score(contact, event.at, event)
        for one, signal in hear(self._inside.get(contact, ()), news):
            self._tell(one, signal)
        if event.kind in MOVES:
            self._expect(self.contacts[contact], event.kind, event.at)
        self._said += self.aims.heard(contact, event, self.facts(contact), at)
        self._start(contact, event, cause, at)

    def _start(self, contact: str, event: Event, cause: Inside | None, at: datetime) -> None:
        depth = cause.state.depth + 1 if cause else 0
        for name, workflow in self.workflows.items():
            if event.kind == "workflow.handed_over" and event.data["workflow"] != name:
                continue
            trigger = started_by(workflow, event, Case(self.facts(contact), event.at))
            if trigger is None:
                if event.kind == "workflow.handed_over":
                    self.left_out.append((contact, name, "it does not start by being handed over"))
            elif cause and depth > DEEPEST:
                said = chain_ends(name, self.facts(contact).zone)
                self.left_out.append((contact, name, said.sentence))
                self._said.append(Moment(at, contact, cause.program.name, Happened(event), cause.state, (), [said]))
            else:
                about, why = trigger.about(event), trigger.describe()
                self._enrol(contact, name, why, about, event.by, depth, at)

    def _enrol(
        self, contact: str, name: str, why: str, about: Mapping[str, str], by: str, depth: int, at: datetime
    ) -> None:
        program, entry = self.programs[name], self.workflows[name].entry
        deal = once_for(entry, about)
        key = contact, name, deal
        here = next((one for one in self._inside[contact] if (contact, one.program.name, one.once_for) == key), None)
        ended = here.state.arrived if here and here.state.finished else self._ended.get(key)
        before = Before(None) if here and not here.state.finished else Before(ended) if ended else None
        refused = kept_out(entry, Case(self.facts(contact), at), before, name)
        if refused:
            self.left_out.append((contact, name, refused))
            return
        if here:  # who only stays in case a date moves makes room
            here.state = here.state._replace(place="", until=None, ended=FINISHED, finished=False)
            self._left(here, at)
        state = State(at, about=about, by=by, depth=depth)
        one = Inside(next(self._numbers), contact, program, state, Joined(why, about), once_for=deal)
        self._inside[contact].append(one)
        self.aims.came(one)
        self._alive += 1
        self._due.append(one)

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
            self._absorb(News(due.contact, event))
        if isinstance(due.trigger, DateComes):
            self._expect(contact, "field.changed", at)
