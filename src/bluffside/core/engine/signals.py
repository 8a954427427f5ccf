"""What can happen to an enrolment from outside. The server makes these from domain events."""

from dataclasses import dataclass

from bluffside.core.facts import Channel


@dataclass(frozen=True, slots=True)
class Joined:
    """The contact has just been enrolled."""

    why: str = "enrolled by hand"


@dataclass(frozen=True, slots=True)
class TimeReached:
    """The moment the enrolment waits for may have come; ignored when it has not."""


@dataclass(frozen=True, slots=True)
class Replied:
    """The contact wrote back, on any channel."""

    text: str
    channel: Channel = "text"


@dataclass(frozen=True, slots=True)
class Removed:
    """A person takes the contact out."""

    why: str


Signal = Joined | TimeReached | Replied | Removed
