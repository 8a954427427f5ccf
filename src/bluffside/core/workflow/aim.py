"""What a workflow is for: that one of these happens within so long of coming in. It is decided for each enrolment from what
happens to its contact, whether they are inside still or have left; once an enrolment.

What happened by chance, or anyway, counts as well: what the workflow *added* is known only against people it left alone.
"""

from collections.abc import Mapping
from datetime import datetime
from decimal import Decimal
from typing import ClassVar

from pydantic import Field

from bluffside.core.conditions import Case
from bluffside.core.document_part import DocumentPart, part
from bluffside.core.events import Event
from bluffside.core.timing.durations import Duration
from bluffside.core.triggers import Happening

MOST_DAYS = 366  # longer ago nobody can say any more what came of what


class Aim(DocumentPart):
    """`worth`: what one reached counts for in money where what happened has no amount of its own (a purchase has, and a deal)."""

    sentence: ClassVar[str] = "within {within} of coming in"

    happens: tuple[Happening, ...] = Field(default=(), max_length=5, description="reached when any of these happens")
    within: Duration = part("duration", "within how long", default=Duration(30, "day"))
    worth: Decimal | None = part(
        "money",
        "what one is worth",
        empty="no amount",
        clause="worth {} each",
        default=None,
        ge=0,
        max_digits=12,
        decimal_places=2,
    )

    def listens_to(self) -> frozenset[str]:
        return frozenset(kind for trigger in self.happens for kind in trigger.listens_to)

    def until(self, joined: datetime, zone: str) -> datetime:
        """The last instant that counts for who came in then; `zone` is theirs."""
        return self.within.after(joined, zone)

    def reached(self, joined: datetime, event: Event, case: Case, deal: str = "") -> bool:
        """Whether an event reaches it for who came in at an instant. `deal`: the one they came in for, where each deal does;
        what happens to another of theirs does not count."""
        if not joined < event.at <= self.until(joined, case.zone):
            return False
        if deal and event.data.get("deal", deal) != deal:
            return False
        return any(trigger.admits(event, case) for trigger in self.happens)

    def value(self, event: Event, deals: Mapping[str, Decimal]) -> Decimal:
        """What it counts for in money: what was paid, else what the deal is worth, else as the aim says."""
        own = event.data.get("amount")
        if own is None:
            own = deals.get(str(event.data.get("deal", "")))
        return Decimal(str(own)) if own is not None else self.worth or Decimal(0)

    def fault(self) -> str:
        """What is missing, in words; empty when nothing is."""
        if not self.happens:
            return "It has an aim, and nothing that reaches it is named yet."
        return next(filter(None, (trigger.fault() for trigger in self.happens)), "")

    def describe(self) -> str:
        """ "when an appointment is booked, within 30 days" """
        said = " or ".join(trigger.describe() for trigger in self.happens) or "…"
        return f"{said}, within {self.within}"
