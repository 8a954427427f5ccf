"""Replied: the contact writes back, to one message or to any, on one channel or on any."""

from typing import Literal

from bluffside.core.document_part import part
from bluffside.core.events import Event
from bluffside.core.terms import TwoWay
from bluffside.core.triggers.base import Trigger


class Replied(Trigger):
    label = "when a reply comes"
    sentence = "when they reply to {message} by {channel}"
    listens_to = ("reply.received",)
    subject_field = "channel"

    kind: Literal["replied"] = "replied"
    message: str = part("line", "message", of="message", empty="anything", default="", max_length=120)
    channel: TwoWay | None = part("channel", "channel", empty="any channel", default=None)

    def fits(self, event: Event) -> bool:
        return super().fits(event) and self.message in ("", event.data.get("message"))

    def said(self) -> str:
        to = f" to “{self.message}”" if self.message else ""
        by = f" by {self.channel}" if self.channel else ""
        return f"when they reply{to}{by}"
