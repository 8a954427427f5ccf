"""What a step sees while it decides, and where it notes what is to be done and why."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any, NamedTuple

from bluffside.core import words
from bluffside.core.care.house import Care
from bluffside.core.channels.answers import meant
from bluffside.core.conditions import Case
from bluffside.core.engine.effects import Effect, SendMessage
from bluffside.core.engine.signals import Replied
from bluffside.core.engine.state import UNANSWERED, State
from bluffside.core.facts import Appointment, Contact, Facts
from bluffside.core.messages.merge import BadTemplate, render
from bluffside.core.terms import Channel, Purpose
from bluffside.core.timing.hours import LAWFUL_FROM, LAWFUL_TO, SendingHours
from bluffside.core.timing.local import to_instant, to_local

NO_CARE = Care()
CALLING = SendingHours(start=LAWFUL_FROM, end=LAWFUL_TO)
NEVER = datetime(9999, 1, 1, tzinfo=UTC)
NOTHING: Mapping[str, str] = {}


@dataclass(slots=True)
class Setting:
    """Where and when: the contact's zone and dates, the workflow's sending hours, the account's care, and the
    anchor that days are counted from. The time line is computed in the same setting that steps decide in.

    `later_pass`: in a loop that has been gone through before, so that a moment that repeats and is now was taken by
    the pass before, and the one after it is meant."""

    zone: str
    hours: SendingHours | None = None
    care: Care = NO_CARE
    joined: datetime | None = None
    contact: Contact = field(default_factory=Contact)
    about: Mapping[str, str] = field(default_factory=dict)
    home: str = "UTC"  # the account's zone
    later_pass: bool = False

    def next_allowed(self, instant: datetime, channel: Channel = "text", purpose: Purpose = "marketing") -> datetime:
        """The first instant, from this one on, at which such a message may go out; NEVER when none is left."""
        if not self.hours and not self.care.quiet:
            return instant
        for _ in range(30):
            start = instant
            if self.hours:
                instant = self.hours.next_allowed(instant, self.zone)
            for quiet in self.care.quiet:
                if quiet.concern(channel, purpose) and (found := quiet.window_at(instant, self.zone)):
                    instant = found[1]
            if instant == start:
                return instant
        return NEVER

    def why_not_now(self, instant: datetime, channel: Channel = "text", purpose: Purpose = "marketing") -> str:
        """What keeps such a message from going out at an instant, in words; empty when nothing does."""
        where = words.place(self.zone)
        if self.hours and self.hours.next_allowed(instant, self.zone) > instant:
            return f"outside the sending hours, {self.hours.describe()} in {where}"
        for quiet in self.care.quiet:
            if quiet.concern(channel, purpose) and quiet.window_at(instant, self.zone):
                return f"quiet hours, {quiet.describe()} in {where}"
        return ""

    def last_allowed(self, instant: datetime) -> datetime:
        """The last instant, up to this one, at which any message may go out: what a reminder is moved back to."""
        for _ in range(30):
            start = instant
            if self.hours:
                instant = self.hours.last_allowed(instant, self.zone)
            for quiet in self.care.quiet:
                if found := quiet.window_at(instant, self.zone):
                    instant = found[0] - timedelta(minutes=1)
            if instant == start:
                break
        return instant

    def team_is_there(self, instant: datetime) -> datetime:
        """This instant when the business is open, else the next opening, holidays left out."""
        opening = self.care.opening
        if not opening.days:
            return instant
        at = instant
        for _ in range(60):
            at = opening.next_open(at, self.home)
            day = to_local(at, self.home).date()
            if not self.care.closed(day):
                return at
            at = _next_midnight(at, self.home)
        return instant

    def next_call(self, instant: datetime) -> datetime:
        """The first instant, from this one on, at which the team is there and somebody may be rung: between 8 and 21 where
        the contact is (47 CFR 64.1200(c)(1)). The opening hours alone where the two never meet."""
        at = instant
        for _ in range(60):
            allowed = CALLING.next_allowed(self.team_is_there(at), self.zone)
            if allowed == at:
                return at
            at = allowed
        return self.team_is_there(instant)

    def appointment(self, type: str = "") -> Appointment | None:
        """The appointment it is about, else the next to come of a type (any, when empty)."""
        about = self.contact.appointment(self.about.get("appointment", ""))
        if about and type in ("", about.type):
            return about
        anchor = self.joined
        coming = [
            one
            for one in self.contact.appointments
            if one.to_come and type in ("", one.type) and (anchor is None or one.start > anchor)
        ]
        return min(coming, key=lambda one: one.start, default=None)


def is_later_pass(loops: tuple[tuple[str, int], ...]) -> bool:
    return any(number > 1 for _, number in loops)


def _next_midnight(instant: datetime, zone: str) -> datetime:
    local = to_local(instant, zone) + timedelta(days=1)
    return to_instant(local.replace(hour=0, minute=0, second=0, microsecond=0), zone)


class Reason(NamedTuple):
    """One decision: the step it was taken at (empty for the workflow's own), a sentence, the values seen.

    The sentence is put together when it is read, since most are kept and few are read: `words` has {} for
    each of `parts`, and an instant among them is written as the wall clock of `zone` shows it, as seen from `now`.
    """

    step: str
    words: str
    parts: tuple[Any, ...]
    values: Mapping[str, str]
    zone: str
    now: datetime | None = None

    @property
    def sentence(self) -> str:
        if not self.parts:
            return self.words
        return self.words.format(
            *(words.moment(part, self.zone, self.now) if isinstance(part, datetime) else part for part in self.parts)
        )


class Turn:
    """One enrolment's turn at an instant. `place`, `arrived`, `round`, `loops`, `deadline`, `planned`, `answered`, `talk` and `about`
    change while moves are followed; `state` is as it was when the turn began."""

    __slots__ = (
        "about", "answered", "arrived", "deadline", "effects", "facts", "hours", "loops", "now", "place", "planned", "reasons",
        "round", "state", "stopped", "talk", "workflow", "zone", "_setting",
    )  # fmt: skip

    def __init__(
        self,
        now: datetime,
        state: State,
        facts: Facts,
        hours: SendingHours | None,
        about: Mapping[str, str],
        workflow: str = "",
    ) -> None:
        self.workflow = workflow
        self.now = now
        self.state = state
        self.facts = facts
        self.hours = hours
        self.about = about
        self.zone = facts.contact.zone or facts.account.zone
        self.place = state.place
        self.round = state.round
        self.loops = state.loops
        self.arrived = state.arrived or now
        self.deadline = state.deadline
        self.planned = state.planned
        self.answered = state.answered
        self.stopped = False
        self.talk = state.talk
        self.effects: list[Effect] = []
        self.reasons: list[Reason] = []
        self._setting: Setting | None = None

    def meant(self, reply: Replied) -> str:
        """What a reply says, a word of the account's own as the usual one (channels.answers)."""
        return meant(reply.text, self.facts.account.care)

    @property
    def setting(self) -> Setting:
        """Where and when, as things stand in this turn; made when it is first asked for."""
        if self._setting is None:
            contact, account = self.facts.contact, self.facts.account
            joined, again = self.state.joined, is_later_pass(self.loops)
            self._setting = Setting(
                self.zone, self.hours, account.care, joined, contact, self.about, account.zone, again
            )
        return self._setting

    def do(self, effect: Effect) -> None:
        """Have this done, once, and let later steps see what it changes."""
        self.effects.append(effect)
        if isinstance(effect, SendMessage):
            self.answered = UNANSWERED
        self.facts = effect.changes(self.facts, self.now)
        self.zone = self.facts.contact.zone or self.facts.account.zone
        self._setting = None

    def because(self, sentence: str, *parts: Any, seen: Mapping[str, str] = NOTHING) -> None:
        """Notes a reason: `sentence` is fixed words with {} for each part, since parts may hold any letters."""
        self.reasons.append(Reason(self.place, sentence, parts, seen, self.zone, self.now))

    def go_round(self, loops: tuple[tuple[str, int], ...]) -> None:
        """Now inside these loops, each at its pass."""
        self.loops = loops
        self._setting = None

    def plans_by(self, date: str) -> None:
        """What follows is said relative to a date (see engine.replanning)."""
        if date and date not in self.planned:
            self.planned = {**self.planned, date: (self.place, self.loops)}

    def concern(self, **about: str) -> None:
        """What follows is about this deal, appointment …, too."""
        self.about = {**self.about, **about}
        self._setting = None

    @property
    def key(self) -> tuple[str, int]:
        return self.place, self.round

    @property
    def case(self) -> Case:
        return Case(self.facts, self.now)

    def render(self, body: str) -> str:
        try:
            by = self.state.by
            return render(body, self.facts, {**self.about, "causer": by} if by else self.about)
        except BadTemplate as error:
            error.step = self.place
            raise
