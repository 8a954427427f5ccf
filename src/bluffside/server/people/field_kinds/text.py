"""Text: words as they are."""

from bluffside.core.facts import FieldValue
from bluffside.server.people.field_kinds.base import FieldKind, How

LONGEST = 2_000


class Text(FieldKind):
    name, rank, label = "text", 1, "text"

    def read(self, text: str, how: How) -> FieldValue:
        return text[:LONGEST]


KIND = Text()
