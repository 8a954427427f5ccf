"""Deal rests: one stands in its stage longer than deals may rest there. A look at the clock, or a rehearsal, makes the event."""

from typing import Literal

from bluffside.core.document_part import part
from bluffside.core.events import Event
from bluffside.core.triggers.base import Trigger


class DealRests(Trigger):
    label = "when a deal rests too long"
    sentence = "when a deal on {pipeline} rests too long in {stage}"
    listens_to = ("deal.rested",)
    subject_field = "stage"

    kind: Literal["deal_rests"] = "deal_rests"
    pipeline: str = part("pipeline", "pipeline", empty="any pipeline", default="", max_length=80)
    stage: str = part("stage", "stage", empty="any stage", default="", max_length=80)

    def fits(self, event: Event) -> bool:
        return super().fits(event) and self.pipeline in ("", event.data.get("pipeline"))
