"""Yes or no."""

from collections.abc import Sequence

from bluffside.core.facts import FieldValue
from bluffside.server.people.field_kinds.base import FieldKind, How
from bluffside.server.people.reading import NO, YES, read_yes_no


class YesNo(FieldKind):
    name, rank, label = "yes_no", 5, "yes or no"
    picks, fixed = "one", ("yes", "no")
    guessed = 1
    dated = True

    def read(self, text: str, how: How) -> FieldValue:
        return read_yes_no(text)

    def fits(self, values: Sequence[str]) -> bool:
        return all(value.strip().lower() in YES | NO for value in values)


KIND = YesNo()
