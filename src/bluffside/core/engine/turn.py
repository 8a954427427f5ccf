"""What a step sees while it decides, and where it notes what is to be done and why."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime

from bluffside.core.engine.effects import Effect, apply
from bluffside.core.engine.state import State
from bluffside.core.facts import Facts
from bluffside.core.messages.merge import render
from bluffside.core.timing import words
from bluffside.core.timing.hours import SendingHours


@dataclass(frozen=True, slots=True)
class Setting:
    """Where and when messages may go out: the contact's zone and the workflow's sending hours, if any."""

    zone: str
    hours: SendingHours | None = None

    def next_allowed(self, instant: datetime) -> datetime:
        return self.hours.next_allowed(instant, self.zone) if self.hours else instant


@dataclass(frozen=True, slots=True)
class Reason:
    """One decision: the step it was taken at (empty for the workflow's own), a sentence, the values seen."""

    step: str
    sentence: str
    values: Mapping[str, str]


@dataclass(slots=True)
class Turn:
    now: datetime
    state: State
    facts: Facts
    setting: Setting
    effects: list[Effect] = field(default_factory=list)
    reasons: list[Reason] = field(default_factory=list)

    def do(self, effect: Effect) -> None:
        """Have this done, once, and let later steps see what it changes."""
        self.effects.append(effect)
        self.facts = replace(self.facts, contact=apply(self.facts.contact, effect))

    def because(self, sentence: str, values: Mapping[str, str] | None = None) -> None:
        self.reasons.append(Reason(self.state.place, sentence, values or {}))

    @property
    def key(self) -> tuple[str, int]:
        return self.state.place, self.state.round

    def render(self, body: str) -> str:
        return render(body, self.facts)

    def local(self, instant: datetime) -> str:
        """The instant as the contact's wall clock shows it."""
        return words.moment(instant, self.setting.zone)
