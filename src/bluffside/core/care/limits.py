"""Message limits: at most so many messages to a contact over some days, across all workflows.

A message over the limit waits until the oldest one that counts is past, or is left out. When several
messages wait for the same contact, `turn_order` says who goes first: service before marketing, then who
has waited longest, then by key. That is fair: while it waits a message only moves up among its equals.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from pydantic import Field

from bluffside.core.document_part import DocumentPart
from bluffside.core.events import Event
from bluffside.core.terms import CHANNELS, Channel, Purpose
from bluffside.core.timing.durations import Duration


class MessageLimit(DocumentPart):
    """At most `messages` in any stretch of `within`, counting those on the channels and for the purposes named."""

    messages: int = Field(default=3, ge=1, le=1_000)
    within: Duration = Duration(7, "day")
    channels: tuple[Channel, ...] = CHANNELS
    purposes: tuple[Purpose, ...] = ("marketing",)
    over: Literal["wait", "leave_out"] = "wait"

    def concerns(self, channel: str, purpose: str) -> bool:
        return channel in self.channels and purpose in self.purposes

    def free_at(self, now: datetime, sent: Sequence[Event], zone: str) -> datetime:
        """When one more may go: now, or when enough of those already sent are past. `sent` is oldest first."""
        counted = [
            ends
            for event in sent
            if event.kind == "message.sent"
            and self.concerns(event.data.get("channel", ""), event.data.get("purpose", ""))
            and (ends := self.within.after(event.at, zone)) > now
        ]
        if len(counted) < self.messages:
            return now
        return sorted(counted)[len(counted) - self.messages]

    def describe(self) -> str:
        return f"at most {self.messages} messages in {self.within}"


@dataclass(frozen=True, slots=True)
class Waiting:
    """A message that wants to go to a contact: what for, since when it waits, its key."""

    purpose: Purpose
    since: datetime
    key: str


def turn_order(waiting: Waiting) -> tuple[int, datetime, str]:
    """The sort key of the fair rule; the smallest goes first."""
    return (0 if waiting.purpose == "service" else 1, waiting.since, waiting.key)
