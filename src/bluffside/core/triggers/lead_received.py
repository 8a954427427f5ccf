"""Web lead received: another system sends a contact, from one source or from any."""

from typing import Literal

from bluffside.core.conditions import Condition, EventTest
from bluffside.core.document_part import part
from bluffside.core.triggers.base import Trigger


class LeadReceived(Trigger):
    label = "when a web lead comes in"
    sentence = "when a lead comes from {source}"
    listens_to = ("lead.received",)
    subject_field = "source"

    kind: Literal["lead_received"] = "lead_received"
    source: str = part("source", "source", empty="any source", default="", max_length=120)

    def already(self) -> Condition | None:
        return EventTest(event="lead.received", about=self.source, within=None)
