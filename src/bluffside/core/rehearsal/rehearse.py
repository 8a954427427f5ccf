"""One contact played through one workflow against made-up time.

Answers are given by instant (a file of events) or by line (the workflow page: "at this wait, say this after
so long").
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from bluffside.core.engine.effects import Effect, SendMessage
from bluffside.core.engine.signals import Removed, Replied
from bluffside.core.engine.state import State
from bluffside.core.events import Event
from bluffside.core.facts import Contact, Facts
from bluffside.core.rehearsal.moments import Moment
from bluffside.core.rehearsal.world import World
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.timing.durations import Duration
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.program import GoesRoundTooOften, goes_round_too_often

MOST_MOMENTS = 5_000


@dataclass(frozen=True, slots=True)
class Answer:
    """What happens at a wait for the contact, so long after it began; without `what`, nothing does until the limit. In a conversation
    one after the other, each so long after the one before."""

    what: Event | Replied | Removed | None = None
    after: Duration = Duration(0, "minute")


Answers = Answer | Sequence[Answer]  # of a wait; of a conversation


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """`awaits` is the line at which the rehearsal stopped for an answer nobody has given yet; else empty. `given`: the
    answers that happened, by their instants, lines, and which of a conversation's they are. `reached`: when the workflow's aim was."""

    moments: Sequence[Moment]
    contact: Contact
    state: State
    awaits: str = ""
    given: Sequence[tuple[datetime, str, int]] = ()
    reached: datetime | None = None

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
    events: Sequence[tuple[datetime, Event | Replied | Removed]] = (),
    answers: Mapping[str, Answers] | None = None,
    others: Sequence[Workflow] = (),
    about: Mapping[str, str] | None = None,
    rules: ScoreRules | None = None,
    to_the_end: bool = False,
    batches: Sequence[datetime] = (),
    lets_go: bool = True,
) -> Rehearsal:
    """Plays the workflow to its end; with `batches` (moments, in order), as if workers looked only then; unless somebody
    `lets_go` of held messages at once, they stay held.

    `events` happen at their instants, whatever the contact is at. With `answers` (by the id of a wait), the
    rehearsal stops at the first wait that has none, unless it goes `to_the_end`; without (None), such waits run to
    their limit. `others` are
    workflows that may start, or be handed over to, on the way; `rules` the account's for the lead score. Raises
    GoesRoundTooOften, and merge.BadTemplate when somebody comes to a message that cannot be rendered.
    """
    contact = facts.contact.changed(id=facts.contact.id or "contact")
    anybody = workflow.model_copy(update={"entry": workflow.entry.model_copy(update={"who": None, "hold_back": 0})})
    world = World((anybody, *others), facts.account, facts.member, rules, batches, lets_go)
    if goes_round_too_often(world.programs[workflow.name]):
        raise GoesRoundTooOften("loops in loops: they would be gone through too often to be played")
    world.add(contact, joined)
    world.enrol(contact.id, workflow.name, joined, about=about)
    for at, event in sorted(events, key=lambda one: one[0]):
        world.happen(contact.id, max(at, joined), event)
    moments: list[Moment] = []
    asks = {step.id for step in walk(workflow.steps) if step.waits == "answer"}
    state, answered = State(joined), ""
    given: list[tuple[datetime, str, int]] = []
    heard = Counter[str]()
    for moment in world.run():
        moments.append(moment)
        if moment.workflow == workflow.name:
            state = moment.state
        if len(moments) >= MOST_MOMENTS:
            break
        visit = f"{state.place}:{state.round}"
        if answers is None or state.until is None or answered == visit or state.place not in asks:
            continue
        answer, number = _answer_of(answers.get(state.place), heard[state.place])
        if answer is None and to_the_end:
            continue
        if answer is None:
            return Rehearsal(moments, world.contacts[contact.id], state, state.place, given, _reached(world, workflow))
        answered = visit
        heard[state.place] += 1
        at = answer.after.after(moment.at if number else state.arrived or joined, facts.zone)
        if answer.what is not None and at < state.until:
            world.happen(contact.id, at, answer.what)
            given.append((at, state.place, number))
    return Rehearsal(moments, world.contacts[contact.id], state, "", given, _reached(world, workflow))


def _reached(world: World, workflow: Workflow) -> datetime | None:
    return next((one.at for one in world.aims.reached if one.workflow == workflow.name), None)


def _answer_of(given: Answers | None, heard: int) -> tuple[Answer | None, int]:
    """The next of a conversation's, with its number, as many being heard already; each time the same of any other wait."""
    if given is None or isinstance(given, Answer):
        return given, 0
    return (given[heard] if heard < len(given) else None), heard
