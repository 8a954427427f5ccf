"""Purchase: a contact buys something, as the client's till or shop tells."""

from typing import Literal

from bluffside.core.conditions import Condition, EventTest
from bluffside.core.document_part import part
from bluffside.core.triggers.base import Trigger


class PurchaseMade(Trigger):
    label = "when somebody buys"
    sentence = "when someone buys {item}"
    listens_to = ("purchase.made",)
    subject_field = "item"

    kind: Literal["purchase_made"] = "purchase_made"
    item: str = part("line", "what", empty="anything", default="", max_length=120)

    def already(self) -> Condition | None:
        return EventTest(event="purchase.made", about=self.item, within=None)
