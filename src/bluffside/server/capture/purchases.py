"""Purchases that a client's till or shop tells of, by a source of leads: kept once by the number of the order, however often told."""

from collections.abc import Mapping
from decimal import Decimal
from typing import NamedTuple

from bluffside.server.capture.models import LeadSource, Purchase
from bluffside.server.events.stream import Happened, record
from bluffside.server.people import field_kinds
from bluffside.server.people.field_kinds.base import How
from bluffside.server.people.models import Contact
from bluffside.server.people.reading import Rule
from bluffside.server.practice import clock

AMOUNT, ITEM, NUMBER = "purchase.amount", "purchase.item", "purchase.number"
MOST = Decimal(10) ** 9


class Bought(NamedTuple):
    """`number`: of the order; empty where the source says none."""

    amount: Decimal
    item: str
    number: str


def read(said: Mapping[str, str], rule: Rule, region: str) -> Bought | None:
    """What a body says was bought, by AMOUNT, ITEM and NUMBER; None where it names no amount. Raises ValueError in words."""
    text = said.get(AMOUNT, "")
    if not text:
        return None
    try:
        amount = Decimal(str(field_kinds.read_typed(text, "money", How((), rule, region))))
    except (ValueError, ArithmeticError):
        raise ValueError(f"“{text[:40]}” is no amount") from None
    if not 0 <= amount <= MOST:
        raise ValueError(f"an amount of {text[:40]} is not taken: from 0 to {MOST:,}")
    return Bought(amount.quantize(Decimal("0.01")), said.get(ITEM, "")[:120], said.get(NUMBER, "")[:80])


def made(source: LeadSource, contact: Contact, bought: Bought, key: str) -> bool:
    """Keeps a purchase and tells of it; False for one that was told before. `key` stands for the order where it has no number."""
    row, new = Purchase.objects.get_or_create(
        source=source,
        number=bought.number or key,
        defaults={
            "account": source.account, "contact": contact, "item": bought.item, "amount": bought.amount, "at": clock.now(),
        },
    )  # fmt: skip
    if new:
        data = {"item": row.item, "amount": str(row.amount), "number": row.number, "source": source.name}
        record(source.account, [Happened("purchase.made", contact.id, data)])
    return new
