"""Handed over: another workflow sends the contact on to this one."""

from typing import Literal

from bluffside.core.document_part import part
from bluffside.core.events import Event
from bluffside.core.triggers.base import Trigger


class HandedOver(Trigger):
    """The event is about the workflow it goes to; the server and the world give it to that one alone."""

    label = "when another workflow hands over"
    sentence = "when {source} hands someone over"
    listens_to = ("workflow.handed_over",)

    kind: Literal["handed_over"] = "handed_over"
    source: str = part("workflow", "which workflow", empty="another workflow", default="", max_length=120)

    def fits(self, event: Event) -> bool:
        return super().fits(event) and self.source in ("", event.data.get("from"))
