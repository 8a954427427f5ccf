"""Choice: one of some words that the field names."""

from collections.abc import Sequence

from bluffside.core.facts import FieldValue
from bluffside.server.people.field_kinds.base import FieldKind, How


def one_of(text: str, choices: Sequence[str]) -> str:
    """The choice as the field writes it, whatever its letters' case. Raises ValueError in words."""
    plain = {one.casefold(): one for one in choices}
    if choices and text.strip().casefold() not in plain:
        raise ValueError(f"“{text}” is none of {', '.join(choices)}")
    return plain.get(text.strip().casefold(), text.strip())


class Choice(FieldKind):
    name, rank, label, picks = "choice", 6, "one of several choices", "one"

    def read(self, text: str, how: How) -> FieldValue:
        return one_of(text, how.choices)


KIND = Choice()
