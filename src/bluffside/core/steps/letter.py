"""Letter: a letter or postcard that the print house sends to the contact's postal address."""

from collections.abc import Mapping
from typing import Literal

from bluffside.core.messages.wording import LetterMessage, Wording
from bluffside.core.steps.base import part
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Channel


class Letter(Speaking):
    label = "Letter"
    finds = ("letter", "postcard", "post")
    sentence = "Posts {message}."
    speaks = "letter"

    kind: Literal["letter"] = "letter"
    message: LetterMessage = part("message", "message", default=LetterMessage())

    def versions(self) -> Mapping[Channel, Wording]:
        return {"letter": self.message}
