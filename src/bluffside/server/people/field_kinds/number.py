"""Number: a decimal number, its fraction parted by a point or a comma."""

from collections.abc import Sequence

from bluffside.core.facts import FieldValue
from bluffside.server.people.field_kinds.base import FieldKind, How
from bluffside.server.people.reading import Rule, guess_number_rule, read_number


class Number(FieldKind):
    name, rank, label = "number", 2, "number"
    rules = ("point", "comma")
    guessed = 5
    dated = True

    def read(self, text: str, how: How) -> FieldValue:
        return read_number(text, how.rule or "point")

    def guess_rule(self, values: Sequence[str]) -> Rule:
        return guess_number_rule(values)

    def fits(self, values: Sequence[str]) -> bool:
        """What begins with a nought is a number of something (a telephone, a member) rather than how many."""
        said = [value.strip() for value in values]
        return all(not one.startswith("0") or one == "0" or "." in one for one in said) and super().fits(values)


KIND = Number()
