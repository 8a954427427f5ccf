"""Consent given: the contact gives consent, on one channel or on any."""

from typing import Literal

from bluffside.core.conditions import AnyOf, Condition, ConsentTest
from bluffside.core.document_part import part
from bluffside.core.terms import CHANNELS, PURPOSES, Channel
from bluffside.core.triggers.base import Trigger


class ConsentGiven(Trigger):
    label = "when someone agrees to be written to"
    sentence = "when they agree to {channel}"
    listens_to = ("consent.given",)
    subject_field = "channel"

    kind: Literal["consent_given"] = "consent_given"
    channel: Channel | None = part("channel", "channel", empty="any channel", default=None)

    def already(self) -> Condition | None:
        channels = (self.channel,) if self.channel else CHANNELS
        said = (ConsentTest(channel=one, purpose=purpose, state="given") for one in channels for purpose in PURPOSES)
        return AnyOf(of=tuple(said))
