"""An account's lead score rules: points for who somebody is, and for what they do, with limits and fading.

Points for who somebody is stand as long as the condition holds, and do not fade. Points for what somebody does
are earned by an event and may fade with a half-life; a limit is the most a rule may stand at. Marks (cool, warm,
ready, or the account's own) divide the scale; crossing one starts workflows. An account may keep further scores beside the
lead score, each with a name, rules and marks of its own: what a rule or mark belongs to is its `score`, "" for the lead score.
"""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from bluffside.core.conditions import Case, Condition, Need
from bluffside.core.conditions.base import Test
from bluffside.core.conditions.clock import TimeTest, WeekdayTest
from bluffside.core.conditions.expression import Several
from bluffside.core.document_part import DocumentPart
from bluffside.core.events import Event
from bluffside.core.facts import Facts
from bluffside.core.scoring.sheet import Score
from bluffside.core.timing.durations import Duration
from bluffside.core.triggers import Happening

MOST_FURTHER = 5


class ForBeing(DocumentPart):
    """Points while a condition holds."""

    kind: Literal["being"] = "being"
    name: str = Field(min_length=1, max_length=120)
    points: float
    when: Condition
    score: str = Field(default="", max_length=40)


class ForDoing(DocumentPart):
    """Points each time something happens; halving every `half_life` (days or weeks), up to `limit`."""

    kind: Literal["doing"] = "doing"
    name: str = Field(min_length=1, max_length=120)
    points: float
    on: Happening
    half_life: Duration | None = None
    limit: float | None = Field(default=None, gt=0)
    score: str = Field(default="", max_length=40)

    @model_validator(mode="after")
    def _fades_by_exact_time(self) -> Self:
        if self.half_life and (self.half_life.unit == "month" or not self.half_life.amount):
            raise ValueError("a half-life is in hours, days or weeks, and longer than none")
        return self


class Mark(DocumentPart):
    name: str = Field(min_length=1, max_length=40)
    at_least: float
    score: str = Field(default="", max_length=40)


Rule = ForBeing | ForDoing


def _goes_by_time(test: Test) -> bool:
    if isinstance(test, Several):
        return any(map(_goes_by_time, test.of))
    return type(test).turns_at is not Test.turns_at


def goes_by_the_clock(test: Test) -> bool:
    """Whether it asks what time or weekday it is, which says nothing of who somebody is."""
    return (
        any(map(goes_by_the_clock, test.of)) if isinstance(test, Several) else isinstance(test, TimeTest | WeekdayTest)
    )


class ScoreRules(DocumentPart):
    """`barred`: fields of a contact that no rule may go by, such as their postal address. `further`: the names of the scores beside
    the lead score."""

    being: tuple[ForBeing, ...] = ()
    doing: tuple[ForDoing, ...] = ()
    marks: tuple[Mark, ...] = (
        Mark(name="cool", at_least=0),
        Mark(name="warm", at_least=30),
        Mark(name="ready", at_least=60),
    )

    barred: tuple[str, ...] = Field(default=(), max_length=50)
    further: tuple[Annotated[str, Field(min_length=1, max_length=40)], ...] = Field(default=(), max_length=MOST_FURTHER)

    @model_validator(mode="after")
    def _belong_to_a_score(self) -> Self:
        if len({name.casefold() for name in self.further}) < len(self.further):
            raise ValueError("two scores have the same name")
        if lost := {one.score for one in (*self.all, *self.marks)} - set(self.scores):
            raise ValueError(f"there is no score {sorted(lost)[0]}")
        return self

    @property
    def scores(self) -> tuple[str, ...]:
        """The names of all scores, the lead score first."""
        return ("", *self.further)

    def of(self, score: str) -> Self:
        """The rules and marks of one score alone."""
        return self.model_copy(
            update={
                "being": tuple(one for one in self.being if one.score == score),
                "doing": tuple(one for one in self.doing if one.score == score),
                "marks": tuple(one for one in self.marks if one.score == score),
            }
        )

    @property
    def all(self) -> tuple[Rule, ...]:
        return (*self.being, *self.doing)

    @property
    def needs(self) -> frozenset[Need]:
        """What must be known of somebody to count by them."""
        return frozenset().union(
            *(rule.when.all_needs() for rule in self.being),
            *(rule.on.when.all_needs() for rule in self.doing if rule.on.when),
        )

    def after(self, score: Score, event: Event, facts: Facts) -> Score:
        """The score once an event has happened."""
        for rule in self.doing:
            if rule.on.admits(event, Case(facts, event.at)):
                half_life = rule.half_life.length if rule.half_life else None
                score = score.plus(rule.name, rule.points, event.at, half_life, rule.limit, rule.score)
        return score

    def standing(self, facts: Facts, now: datetime) -> Score:
        """The contact's scores with the points for who they are as they stand now."""
        score = facts.contact.score
        for rule in self.being:
            worth = rule.points if rule.when.holds(Case(facts, now)) else 0.0
            held = next((one.points for one in score.of(rule.score) if one.rule == rule.name), 0.0)
            if worth != held:
                score = score.plus(rule.name, worth - held, now, score=rule.score)
        return score

    @property
    def goes_by_time(self) -> bool:
        """Whether points for who somebody is may change though nothing happens."""
        return any(_goes_by_time(rule.when) for rule in self.being)

    def turns_at(self, facts: Facts, now: datetime) -> datetime | None:
        """When points for who somebody is may next be others though nothing happens; None: never, as things stand."""
        case = Case(facts, now)
        return min((at for rule in self.being for at in rule.when.turns_at(case) if at > now), default=None)

    def of_history(self, facts: Facts, events: Sequence[Event], now: datetime) -> Score:
        """The scores by all that happened up to now: what changed rules would give. What else than rules has brought (lines of
        workflows do) stands."""
        score = facts.contact.score
        for event in sorted(events, key=lambda one: one.at):
            if event.at <= now:
                score = self.after(score, event, facts)
        return self.standing(facts.with_contact(score=score), now)

    def mark(self, points: float, score: str = "") -> str:
        """The name of the highest mark of a score reached; empty below all of them."""
        reached = [mark for mark in self.marks if mark.score == score and points >= mark.at_least]
        return max(reached, key=lambda mark: mark.at_least).name if reached else ""
