"""Deal: make one for the contact on a pipeline."""

from collections.abc import Iterator
from decimal import Decimal
from itertools import count
from typing import Literal

from bluffside.core.conditions import Need
from bluffside.core.document_part import fill
from bluffside.core.engine.effects import CreateDeal
from bluffside.core.engine.turn import Turn
from bluffside.core.messages.merge import faults
from bluffside.core.steps.base import Fault, OneAct, needs, part


class MakeDeal(OneAct):
    label = "Make a deal"
    finds = ("deal", "make deal", "opportunity")
    sentence = "Makes the deal {name} on {pipeline} in {stage}, worth {value}."

    kind: Literal["deal_create"] = "deal_create"
    name: str = part("line", "name of the deal", empty="their name", default="", max_length=200)
    pipeline: str = part("pipeline", "pipeline", default="", max_length=80)
    stage: str = part("stage", "stage", default="", max_length=80)
    value: Decimal = part("money", "worth", empty="nothing yet", default=Decimal(0), ge=0, le=10**12)

    def describe(self) -> str:
        worth = f", worth {self.value:f}" if self.value else ""
        return f"{fill(self, 'Makes the deal {name} on {pipeline} in {stage}')}{worth}."

    def act(self, turn: Turn) -> None:
        name = turn.render(self.name).strip() or turn.facts.contact.name
        taken = {deal.id for deal in turn.facts.contact.deals}
        step, round = turn.key
        ids = (f"{step}:{round}" + (f":{number}" if number > 1 else "") for number in count(1))
        deal = CreateDeal(
            step, round, next(id for id in ids if id not in taken), self.pipeline, self.stage, name, self.value
        )
        turn.do(deal)
        turn.concern(deal=deal.deal)
        turn.because("Made the deal “{}” on {} in “{}”.", name, self.pipeline, self.stage)

    def needs(self) -> frozenset[Need]:
        return frozenset({"deals"})

    def brings(self) -> Iterator[tuple[str, str]]:
        yield "deal.created", self.pipeline

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.pipeline, "pipeline-empty", "No pipeline is named yet.")
        yield from needs(self.stage, "stage-empty", "No stage is named yet.")
        for fault in faults(self.name):
            yield Fault("name-unreadable", "error", f"The name {fault}.")
