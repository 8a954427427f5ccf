"""Deal: move one to a stage, or close it as won or lost. It moves the deal the enrolment is about, else the
newest open one on the pipeline; with none, nothing happens and the reason says so."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.conditions import Need
from bluffside.core.engine.effects import MoveDeal
from bluffside.core.engine.turn import Turn
from bluffside.core.facts import Deal
from bluffside.core.steps.base import Fault, OneAct, needs, part


class ShiftDeal(OneAct):
    label = "Move a deal"
    finds = ("move deal", "stage", "win", "lose")
    sentence = "Moves their deal on {pipeline} to {stage}, and it is {state}."

    kind: Literal["deal_move"] = "deal_move"
    pipeline: str = part("pipeline", "pipeline", empty="any pipeline", default="", max_length=80)
    stage: str = part("stage", "stage", empty="the same stage", default="", max_length=80)
    state: Literal["open", "won", "lost"] = part("choice", "open, won or lost", default="open")

    def describe(self) -> str:
        deal = f"their deal on {self.pipeline}" if self.pipeline else "their deal"
        if self.state == "open":
            return f"Moves {deal} to {self.stage or '…'}."
        return f"Closes {deal} as {self.state}{f', in {self.stage}' if self.stage else ''}."

    def _deal(self, turn: Turn) -> Deal | None:
        contact = turn.facts.contact
        about = contact.deal(turn.about.get("deal", ""))
        if about and self.pipeline in ("", about.pipeline):
            return about
        fitting = [one for one in contact.deals if one.state == "open" and self.pipeline in ("", one.pipeline)]
        return max(fitting, key=lambda one: one.created, default=None)

    def act(self, turn: Turn) -> None:
        deal = self._deal(turn)
        if deal is None:
            turn.because("Moved no deal: there is none open on {}.", self.pipeline or "any pipeline")
            return
        turn.do(MoveDeal(*turn.key, deal.id, self.stage, self.state))
        closed = "" if self.state == "open" else f", {self.state}"
        turn.because("Moved “{}” from “{}” to “{}”{}.", deal.name, deal.stage, self.stage or deal.stage, closed)

    def needs(self) -> frozenset[Need]:
        return frozenset({"deals"})

    def brings(self) -> Iterator[tuple[str, str]]:
        if self.state != "open":
            yield f"deal.{self.state}", self.pipeline
        elif self.stage:
            yield "stage.changed", self.stage

    def faults(self) -> Iterator[Fault]:
        if self.state == "open":
            yield from needs(self.stage, "stage-empty", "No stage is named yet.")
