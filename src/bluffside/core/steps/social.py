"""Social: a message to the contact's social handle."""

from collections.abc import Mapping
from typing import Literal

from bluffside.core.messages.wording import SocialMessage, Wording
from bluffside.core.steps.base import part
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Channel


class Social(Speaking):
    label = "Social message"
    finds = ("social", "direct message")
    sentence = "Writes {message} to their social handle."
    speaks = "social"

    kind: Literal["social"] = "social"
    message: SocialMessage = part("message", "message", default=SocialMessage())

    def versions(self) -> Mapping[Channel, Wording]:
        return {"social": self.message}
