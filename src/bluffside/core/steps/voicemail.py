"""Voicemail: a recording left on the contact's mobile without ringing."""

from collections.abc import Mapping
from typing import Literal

from bluffside.core.messages.wording import VoicemailMessage, Wording
from bluffside.core.steps.base import part
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Channel


class Voicemail(Speaking):
    label = "Voicemail"
    finds = ("voicemail", "leave a message")
    sentence = "Leaves the voicemail {message}."
    speaks = "voicemail"

    kind: Literal["voicemail"] = "voicemail"
    message: VoicemailMessage = part("message", "message", default=VoicemailMessage())

    def versions(self) -> Mapping[Channel, Wording]:
        return {"voicemail": self.message}
