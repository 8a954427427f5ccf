"""Opted out: the contact withdraws consent, on one channel or on any."""

from typing import Literal

from bluffside.core.conditions import AnyOf, Condition, ConsentTest
from bluffside.core.document_part import part
from bluffside.core.terms import CHANNELS, PURPOSES, Channel
from bluffside.core.triggers.base import Trigger


class OptedOut(Trigger):
    label = "when someone opts out"
    sentence = "when they opt out of {channel}"
    listens_to = ("consent.withdrawn",)
    subject_field = "channel"

    kind: Literal["opted_out"] = "opted_out"
    channel: Channel | None = part("channel", "channel", empty="any channel", default=None)

    def already(self) -> Condition | None:
        channels = (self.channel,) if self.channel else CHANNELS
        said = (
            ConsentTest(channel=one, purpose=purpose, state="withdrawn") for one in channels for purpose in PURPOSES
        )
        return AnyOf(of=tuple(said))
