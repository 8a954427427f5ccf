"""What can happen to an enrolment from outside. The server makes these from domain events."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

from bluffside.core.events import Event
from bluffside.core.terms import TwoWay


@dataclass(frozen=True, slots=True)
class Joined:
    """The contact has just been enrolled: why, and what it is about (a deal, an appointment). `meanwhile`: what reached
    them before they could begin."""

    why: str = "enrolled by hand"
    about: Mapping[str, str] = field(default_factory=dict)
    meanwhile: "tuple[Signal, ...]" = ()


@dataclass(frozen=True, slots=True)
class TimeReached:
    """The moment the enrolment waits for may have come; ignored when it has not."""


@dataclass(frozen=True, slots=True)
class Replied:
    """The contact wrote back. `message` is the name of the message it answers, when that is known; `reply` the number under which it
    is kept (0: nowhere, as in a rehearsal)."""

    text: str
    channel: TwoWay = "text"
    message: str = ""
    reply: int = 0

    def event(self, at: datetime) -> Event:
        return Event("reply.received", at, {"text": self.text, "channel": self.channel, "message": self.message})


@dataclass(frozen=True, slots=True)
class Happened:
    """Anything else on the stream of domain events that is about the contact."""

    event: Event


@dataclass(frozen=True, slots=True)
class Removed:
    """A person, or another workflow, takes the contact out."""

    why: str


Signal = Joined | TimeReached | Replied | Happened | Removed
