"""The kinds of step: every module of this folder that defines a class with a `kind` of its own.

To add a kind, add a file (see base.py). This page collects them, makes the union that documents are
parsed with, and the catalogue that the web app draws lines from.
"""

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Any, Union

from pydantic import BaseModel, Field

from bluffside.core.document_part import Spoken
from bluffside.core.kinds import found_in
from bluffside.core.steps.base import Lane, Sort, Step, Who

KINDS: dict[str, type[Step]] = found_in(__name__, __path__, Step)

if TYPE_CHECKING:
    AnyStep = Step
else:
    AnyStep = Annotated[Union[tuple(KINDS.values())], Field(discriminator="kind")]  # noqa: UP007


def _with_subclasses(base: type[BaseModel]) -> Iterator[type[BaseModel]]:
    yield base
    for below in base.__subclasses__():
        yield from _with_subclasses(below)


for _model in (*_with_subclasses(Lane), *KINDS.values()):
    _model.model_rebuild(_types_namespace={"AnyStep": AnyStep})


class CataloguePart(BaseModel):
    """One editable part of a kind of step: the field, the sort of value, what to call it, what stands for no value."""

    field: str
    sort: Sort
    label: str
    empty: str


class CatalogueKind(BaseModel):
    """What the web app needs to draw and make a step of one kind."""

    kind: str
    label: str
    finds: list[str]
    sentence: str
    who: Who
    parts: list[CataloguePart]
    blank: dict[str, Any]


def parts_of(kind: type[Spoken]) -> list[CataloguePart]:
    """In the order of the sentence, so that the first is what the line is mostly about; those it does not show last."""
    parts = [
        CataloguePart(field=field, **info.json_schema_extra)
        for field, info in kind.model_fields.items()
        if isinstance(info.json_schema_extra, dict) and "sort" in info.json_schema_extra
    ]
    shown = re.findall(r"\{(\w+)\}", kind.sentence)
    return sorted(parts, key=lambda one: shown.index(one.field) if one.field in shown else len(shown))


def catalogue() -> list[CatalogueKind]:
    """Every kind of step, as data. `blank` is a new step of that kind; its lanes' ids are to be replaced."""
    return [
        CatalogueKind(
            kind=name,
            label=kind.label,
            finds=list(kind.finds),
            sentence=kind.sentence,
            who=kind.who,
            parts=parts_of(kind),
            blank=kind.blank().model_dump(mode="json", exclude={"id"}),
        )
        for name, kind in KINDS.items()
    ]


__all__ = ["KINDS", "AnyStep", "CatalogueKind", "Lane", "Step", "catalogue", "parts_of"]
