"""An account's lead score rules: points for who somebody is, and for what they do, with limits and fading.

Points for who somebody is stand as long as the condition holds, and do not fade. Points for what somebody does
are earned by an event and may fade with a half-life; a limit is the most a rule may stand at. Marks (cool, warm,
ready, or the account's own) divide the scale; crossing one starts workflows.
"""

from collections.abc import Sequence
from datetime import datetime
from typing import Literal, Self

from pydantic import Field, model_validator

from bluffside.core.conditions import Case, Condition, Need
from bluffside.core.document_part import DocumentPart
from bluffside.core.events import Event
from bluffside.core.facts import Facts
from bluffside.core.scoring.sheet import Score
from bluffside.core.timing.durations import Duration
from bluffside.core.triggers import Happening


class ForBeing(DocumentPart):
    """Points while a condition holds."""

    kind: Literal["being"] = "being"
    name: str = Field(min_length=1, max_length=120)
    points: float
    when: Condition


class ForDoing(DocumentPart):
    """Points each time something happens; halving every `half_life` (days or weeks), up to `limit`."""

    kind: Literal["doing"] = "doing"
    name: str = Field(min_length=1, max_length=120)
    points: float
    on: Happening
    half_life: Duration | None = None
    limit: float | None = Field(default=None, gt=0)

    @model_validator(mode="after")
    def _fades_by_exact_time(self) -> Self:
        if self.half_life and (self.half_life.unit == "month" or not self.half_life.amount):
            raise ValueError("a half-life is in hours, days or weeks, and longer than none")
        return self


class Mark(DocumentPart):
    name: str = Field(min_length=1, max_length=40)
    at_least: float


Rule = ForBeing | ForDoing


class ScoreRules(DocumentPart):
    """`barred`: fields of a contact that no rule may go by, such as their postal address."""

    being: tuple[ForBeing, ...] = ()
    doing: tuple[ForDoing, ...] = ()
    marks: tuple[Mark, ...] = (
        Mark(name="cool", at_least=0),
        Mark(name="warm", at_least=30),
        Mark(name="ready", at_least=60),
    )

    barred: tuple[str, ...] = Field(default=(), max_length=50)

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
                score = score.plus(
                    rule.name, rule.points, event.at, rule.half_life.length if rule.half_life else None, rule.limit
                )
        return score

    def standing(self, facts: Facts, now: datetime) -> Score:
        """The contact's score with the points for who they are as they stand now."""
        score = facts.contact.score
        for rule in self.being:
            worth = rule.points if rule.when.holds(Case(facts, now)) else 0.0
            held = next((one.points for one in score.earned if one.rule == rule.name), 0.0)
            if worth != held:
                score = score.plus(rule.name, worth - held, now)
        return score

    def of_history(self, facts: Facts, events: Sequence[Event], now: datetime) -> Score:
        """The score from nothing, by all that happened up to now: what changed rules would give."""
        score = Score()
        for event in sorted(events, key=lambda one: one.at):
            if event.at <= now:
                score = self.after(score, event, facts)
        return self.standing(facts.with_contact(score=score), now)

    def mark(self, points: float) -> str:
        """The name of the highest mark reached; empty below all of them."""
        reached = [mark for mark in self.marks if points >= mark.at_least]
        return max(reached, key=lambda mark: mark.at_least).name if reached else ""
