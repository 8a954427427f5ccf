"""Text: one text message to the contact's mobile number."""

from collections.abc import Iterator, Mapping
from typing import Literal

from bluffside.core.channels.text_parts import measure
from bluffside.core.messages.wording import TextMessage, Wording
from bluffside.core.steps.base import Fault, part
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

    def faults(self) -> Iterator[Fault]:
        yield from super().faults()
        yield from split_faults(self.message)


def split_faults(message: TextMessage) -> Iterator[Fault]:
    """A warning when carriers will split a text; merge fields make its length uncertain."""
    length = measure(message.body)
    if length.parts > 1 and "{" not in message.body:
        yield Fault("text-split", "warning", f"“{message.name}” is split into {length.parts} parts.")
