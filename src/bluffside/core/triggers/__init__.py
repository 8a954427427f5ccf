"""The kinds of trigger: every module of this folder that defines a class with a `kind` of its own.

`AnyTrigger` is what may start a workflow. `Happening` is the same without "by hand": what a step may wait
for and what people may leave on, which must be something that happens.
"""

from typing import TYPE_CHECKING, Annotated, Union

from pydantic import Field

from bluffside.core.kinds import found_in
from bluffside.core.triggers.base import By, Trigger
from bluffside.core.triggers.by_hand import ByHand
from bluffside.core.triggers.handed_over import HandedOver
from bluffside.core.triggers.replied import Replied
from bluffside.core.triggers.tag_added import TagAdded

TRIGGERS: dict[str, type[Trigger]] = found_in(__name__, __path__, Trigger)

if TYPE_CHECKING:
    AnyTrigger = Trigger
    Happening = Trigger
else:
    _happenings = tuple(kind for kind in TRIGGERS.values() if kind.listens_to)
    AnyTrigger = Annotated[Union[tuple(TRIGGERS.values())], Field(discriminator="kind")]  # noqa: UP007
    Happening = Annotated[Union[_happenings], Field(discriminator="kind")]  # noqa: UP007

__all__ = ["TRIGGERS", "AnyTrigger", "By", "ByHand", "HandedOver", "Happening", "Replied", "TagAdded", "Trigger"]
