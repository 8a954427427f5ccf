"""Stage changed: a deal moves out of a stage, into a stage, or both; by anyone, anyone but one, or one."""

from typing import Literal

from bluffside.core.conditions import Condition, DealTest
from bluffside.core.document_part import part
from bluffside.core.events import Event
from bluffside.core.triggers.base import By, Trigger


class StageChanged(Trigger):
    label = "when a deal changes stage"
    sentence = "when a deal on {pipeline} moves from {out_of} to {into}, moved by {by}"
    listens_to = ("stage.changed",)
    subject_field = "into"

    kind: Literal["stage_changed"] = "stage_changed"
    pipeline: str = part("pipeline", "pipeline", empty="any pipeline", default="", max_length=80)
    out_of: str = part("stage", "from stage", empty="any stage", default="", max_length=80)
    into: str = part("stage", "to stage", empty="any stage", default="", max_length=80)
    by: By = part("by", "moved by whom", default=By())

    def fits(self, event: Event) -> bool:
        return (
            super().fits(event)
            and self.pipeline in ("", event.data.get("pipeline"))
            and self.out_of in ("", event.data.get("old"))
            and self.by.fits(event)
        )

    def said(self) -> str:
        on = f" on {self.pipeline}" if self.pipeline else ""
        out = f" out of {self.out_of}" if self.out_of else ""
        into = f" into {self.into}" if self.into else ""
        by = "" if self.by.who == "anyone" else f", moved by {self.by.describe()}"
        return f"when a deal{on} moves{out}{into}{by}" if out or into else f"when a deal{on} changes stage{by}"

    def own_fault(self) -> str:
        unnamed = self.by.who != "anyone" and not self.by.member
        return "It starts by who moves a deal, and no member is named yet." if unnamed else ""

    def already(self) -> Condition | None:
        if not self.into:
            return None
        return DealTest(pipelines=(self.pipeline,) if self.pipeline else (), stages=(self.into,))
