"""The kinds of step: every module of this folder that defines a class with a `kind` of its own, and one for each channel.

To add a kind, add a file (see base.py). This page collects them and makes the union that documents are
parsed with.
"""

from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Union

from pydantic import BaseModel, Field

from bluffside.core.kinds import found_in
from bluffside.core.steps import by_channel
from bluffside.core.steps.base import Lane, Step

KINDS: dict[str, type[Step]] = dict(sorted((found_in(__name__, __path__, Step) | by_channel.STEPS).items()))

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

__all__ = ["KINDS", "AnyStep", "Lane", "Step"]
