"""Deal: one is made, won or lost."""

from typing import Literal

from bluffside.core.conditions import Condition, DealTest
from bluffside.core.document_part import part
from bluffside.core.events import Event
from bluffside.core.triggers.base import Trigger

EVENTS = {"made": "deal.created", "won": "deal.won", "lost": "deal.lost"}


class DealHappening(Trigger):
    label = "when a deal is made, won or lost"
    sentence = "when a deal on {pipeline} is {what}"
    listens_to = tuple(EVENTS.values())
    subject_field = "pipeline"

    kind: Literal["deal"] = "deal"
    pipeline: str = part("pipeline", "pipeline", empty="any pipeline", default="", max_length=80)
    what: Literal["made", "won", "lost"] = part("choice", "what becomes of it", default="made")

    def fits(self, event: Event) -> bool:
        return super().fits(event) and event.kind == EVENTS[self.what]

    def already(self) -> Condition | None:
        state: Literal["open", "won", "lost"] = "open" if self.what == "made" else self.what
        return DealTest(pipelines=(self.pipeline,) if self.pipeline else (), state=state)
