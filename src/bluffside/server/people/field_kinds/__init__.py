"""The kinds of an account's own fields: every module of this folder that holds a `KIND`.

To add one, add a file (see docs/a-new-kind-of-field.md). It can then be chosen where fields are made, is read from files, forms,
leads and what the team types, guessed from columns, asked in forms, and shown in words.
"""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Literal

from bluffside.core.facts import FieldValue
from bluffside.core.kinds import declared_in
from bluffside.server.people.field_kinds.base import FieldKind, How


def _found() -> Mapping[str, FieldKind]:
    kinds: list[FieldKind] = declared_in(__name__, __path__, "KIND")
    return {one.name: one for one in sorted(kinds, key=lambda one: (one.rank, one.name))}


FIELD_KINDS = _found()
if TYPE_CHECKING:
    Kind = str
else:
    Kind = Literal[tuple(FIELD_KINDS)]

LEAST = 2  # values of a column, below which nothing is guessed
LOOKED_AT = 300


def read_typed(text: str, kind: str, how: How) -> FieldValue:
    """A value of a field of some kind; None for nothing. Raises ValueError in words."""
    text = text.strip()
    return FIELD_KINDS[kind].read(text, how) if text else None


def guess_kind(values: Sequence[str]) -> str:
    """The kind of field that fits nearly all values that are there: what a new field made of a column would be."""
    some = [value for value in values if value.strip()][:LOOKED_AT]
    guessed = sorted((one for one in FIELD_KINDS.values() if one.guessed), key=lambda one: one.guessed)
    return next((one.name for one in guessed if len(some) >= LEAST and one.fits(some)), "text")


__all__ = ["FIELD_KINDS", "FieldKind", "How", "Kind", "guess_kind", "read_typed"]
