"""Choices: any of some words that the field names, parted by semicolons, commas or strokes."""

import re

from bluffside.core.facts import FieldValue
from bluffside.server.people.field_kinds.base import FieldKind, How
from bluffside.server.people.field_kinds.choice import one_of


class Choices(FieldKind):
    name, rank, label, picks = "choices", 7, "several choices", "several"
    dated = True

    def read(self, text: str, how: How) -> FieldValue:
        return tuple(dict.fromkeys(one_of(one, how.choices) for one in re.split(r"[;,|]", text) if one.strip()))


KIND = Choices()
