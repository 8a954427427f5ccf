"""What steps that speak to the contact share: sending hours, closed channels, message faults.

A step with a closed channel (no address, or opted out) is passed over with its reason; outside the
sending hours it stays until they open, and looks again at the channel then.
"""

from collections.abc import Iterator
from datetime import datetime
from typing import ClassVar, Protocol

from bluffside.core.channels.consent import why_closed
from bluffside.core.engine.effects import SendMessage
from bluffside.core.engine.moves import Move, On, Stay
from bluffside.core.engine.turn import Setting, Turn
from bluffside.core.facts import Channel
from bluffside.core.messages.merge import PATHS, faults, uses
from bluffside.core.steps.base import Fault, Step


class Wording(Protocol):
    @property
    def name(self) -> str: ...
    @property
    def body(self) -> str: ...


class Speaking(Step):
    channel: ClassVar[Channel]

    def wording(self) -> Wording:
        raise NotImplementedError

    def subject(self) -> str:
        return ""

    def begin(self, turn: Turn) -> Move:
        contact = turn.facts.contact
        if closed := why_closed(contact, self.channel):
            turn.because(f"Passed over “{self.wording().name}”: {closed}.", {self.channel: closed})
            return On()
        allowed = turn.setting.next_allowed(turn.now)
        if allowed > turn.now:
            turn.because(f"Holds “{self.wording().name}” until {turn.local(allowed)}: outside the sending hours.")
            return Stay(allowed)
        step, round = turn.key
        turn.do(
            SendMessage(
                step,
                round,
                self.channel,
                self.wording().name,
                turn.render(self.subject()),
                turn.render(self.wording().body),
            )
        )
        turn.because(f"Sends “{self.wording().name}” by {self.channel}.", {"to": contact.address(self.channel)})
        return On()

    def wake(self, turn: Turn) -> Move:
        return self.begin(turn)

    def acts_at(self, at: datetime, setting: Setting) -> datetime:
        return setting.next_allowed(at)

    def faults(self) -> Iterator[Fault]:
        name, body = self.wording().name or self.label, self.wording().body
        if not body.strip():
            yield Fault("message-empty", "error", f"“{name}” has no words yet.")
        for text in (self.subject(), body):
            for fault in faults(text):
                yield Fault("message-unreadable", "error", f"“{name}” {fault}.")
            for use in uses(text):
                if use.words is None and use.path.startswith("contact.") and use.path in PATHS:
                    label = PATHS[use.path].label
                    yield Fault("merge-field-no-words", "warning", f"“{name}” has no words for when {label} is empty.")
