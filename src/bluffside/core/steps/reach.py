"""Reach: one message by the first channel that the contact prefers, allows and can be reached on.

It has a version for some channels; which one goes is decided when it is sent (see channels.reach).
"""

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Literal

from bluffside.core.conditions import Need
from bluffside.core.messages.wording import (
    EmailMessage,
    LetterMessage,
    PushMessage,
    SocialMessage,
    TextMessage,
    VoicemailMessage,
    Wording,
)
from bluffside.core.steps.base import Fault, part
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import CHANNELS, Channel


class Reach(Speaking):
    label = "Reach"
    finds = ("reach", "whichever way", "preferred channel")
    sentence = "Reaches them with {name}, by the channel they prefer."
    speaks = "message"

    kind: Literal["reach"] = "reach"
    name: str = part("line", "message", empty="a new message", default="", max_length=120)
    email: EmailMessage | None = part("message", "email version", empty="", default=None)
    text: TextMessage | None = part("message", "text version", empty="", default=None)
    voicemail: VoicemailMessage | None = part("message", "voicemail version", empty="", default=None)
    letter: LetterMessage | None = part("message", "letter version", empty="", default=None)
    push: PushMessage | None = part("message", "push version", empty="", default=None)
    social: SocialMessage | None = part("message", "social version", empty="", default=None)

    @classmethod
    def blank(cls) -> "Reach":
        return cls(id="new", email=EmailMessage(), text=TextMessage())

    @cached_property
    def title(self) -> str:
        return self.name or self.label

    def versions(self) -> Mapping[Channel, Wording]:
        given = {channel: getattr(self, channel) for channel in CHANNELS}
        return {channel: wording for channel, wording in given.items() if wording is not None}

    def needs(self) -> frozenset[Need]:
        return super().needs() | {"contact"}

    def faults(self) -> Iterator[Fault]:
        yield from super().faults()
        if not self.versions():
            yield Fault("no-version", "error", f"“{self.title}” has no version for any channel yet.")
        elif len(self.versions()) == 1:
            only = next(iter(self.versions()))
            yield Fault("one-version", "warning", f"“{self.title}” has a version for {only} alone: there is no choice.")
