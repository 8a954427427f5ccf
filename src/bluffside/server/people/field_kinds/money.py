"""Money: a number, whose currency is the account's."""

import re
from collections.abc import Sequence
from decimal import Decimal, InvalidOperation

from bluffside.core.words import money
from bluffside.server.people.field_kinds.number import Number

_SIGN = re.compile(r"[£$€]")


class Money(Number):
    name, rank, label = "money", 3, "money"
    guessed = 4

    def said(self, words: str, currency: str) -> str:
        try:
            return money(Decimal(words), currency)
        except InvalidOperation:
            return words

    def fits(self, values: Sequence[str]) -> bool:
        return any(_SIGN.search(value) for value in values) and super().fits(values)


KIND = Money()
