"""What a world in memory is made of: who is inside, what is to come, what has happened."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from types import MappingProxyType
from typing import NamedTuple

from bluffside.core.engine.effects import Effect
from bluffside.core.engine.signals import Joined, Removed, Replied, Signal
from bluffside.core.engine.state import State
from bluffside.core.engine.turn import Reason
from bluffside.core.events import Event
from bluffside.core.workflow.program import Program

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
class Inside:
    """A running enrolment. `heard`: what it is to hear at the next batch; `queued`: the instant in the queue for it;
    `once_for`: the deal that it is the contact's only one for; `said`: when it last said what, by channel and message."""

    number: int
    contact: str
    program: Program
    state: State
    joined: Joined | None = None
    heard: list[Signal] = field(default_factory=list)
    queued: datetime | None = None
    once_for: str = ""
    said: dict[tuple[str, str], datetime] = field(default_factory=dict)


class News(NamedTuple):
    """An event to be handed on. `reply`: how those inside hear it, when it is one; `acted`: they do not hear it at all,
    since the reply it came by says so."""

    contact: str
    event: Event
    cause: Inside | None = None
    reply: Replied | None = None
    acted: bool = False


@dataclass(frozen=True, slots=True)
class Act:
    """Something that happens to a contact from outside."""

    contact: str
    what: Event | Replied | Removed


@dataclass(frozen=True, slots=True)
class Looked:
    """Somebody's points for who they are may be others by now."""

    contact: str


@dataclass(frozen=True, slots=True)
class Enrol:
    contact: str
    workflow: str
    why: str
    about: Mapping[str, str]
    by: str
