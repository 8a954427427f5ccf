"""Link clicked: in one message or in any, whose address contains some words or any."""

from typing import Literal

from bluffside.core.conditions import Condition, MessageTest
from bluffside.core.document_part import part
from bluffside.core.events import Event
from bluffside.core.triggers.base import Trigger


class LinkClicked(Trigger):
    label = "when a link is clicked"
    sentence = "when they click {url} in {message}"
    listens_to = ("link.clicked",)
    subject_field = "message"

    kind: Literal["link_clicked"] = "link_clicked"
    message: str = part("line", "message", of="message", empty="any message", default="", max_length=120)
    url: str = part("line", "part of the address", empty="any link", default="", max_length=500)

    def fits(self, event: Event) -> bool:
        return super().fits(event) and self.url.casefold() in str(event.data.get("url", "")).casefold()

    def already(self) -> Condition | None:
        return None if self.url else MessageTest(message=self.message, did="clicked")
