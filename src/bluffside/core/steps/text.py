"""Text: one text message to the contact's mobile number."""

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from bluffside.core.channels.text_parts import measure
from bluffside.core.document_part import DocumentPart
from bluffside.core.steps.base import Fault, part
from bluffside.core.steps.speaking import Speaking


class TextMessage(DocumentPart):
    """`name` is how the team calls it; `body` may hold merge fields (see messages.merge)."""

    name: str = Field(default="", max_length=120)
    body: str = Field(default="", max_length=20_000)

    def describe(self) -> str:
        return self.name or "a new text"


class Text(Speaking):
    label = "Text"
    finds = ("text", "sms", "message")
    sentence = "Texts {message}."
    who = "account"
    speaks = "text"
    channel = "text"

    kind: Literal["text"] = "text"
    message: TextMessage = part("message", "message", default=TextMessage())

    def wording(self) -> TextMessage:
        return self.message

    def faults(self) -> Iterator[Fault]:
        yield from super().faults()
        length = measure(self.message.body)
        if length.parts > 1 and "{" not in self.message.body:
            yield Fault("text-split", "warning", f"“{self.message.name}” is split into {length.parts} parts.")
