"""Text: one text message to the contact's mobile number."""

from collections.abc import Mapping
from typing import Literal

from bluffside.core.messages.wording import TextMessage, Wording
from bluffside.core.steps.base import part
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Channel


class Text(Speaking):
    label = "Text"
    finds = ("text", "sms", "message")
    sentence = "Texts {message}."
    speaks = "text"

    kind: Literal["text"] = "text"
    message: TextMessage = part("message", "message", default=TextMessage())

    def versions(self) -> Mapping[Channel, Wording]:
        return {"text": self.message}
