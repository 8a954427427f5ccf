"""Push: a notice on the device on which the contact allowed it."""

from collections.abc import Mapping
from typing import Literal

from bluffside.core.messages.wording import PushMessage, Wording
from bluffside.core.steps.base import part
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Channel


class Push(Speaking):
    label = "Push notice"
    finds = ("push", "notify")
    sentence = "Shows the notice {message}."
    speaks = "push"

    kind: Literal["push"] = "push"
    message: PushMessage = part("message", "message", default=PushMessage())

    def versions(self) -> Mapping[Channel, Wording]:
        return {"push": self.message}
