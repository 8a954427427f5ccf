"""The kinds of trigger: one file each. A kind is added by its file and a place in `AnyTrigger`."""

from typing import Annotated

from pydantic import Field

from bluffside.core.triggers.base import Trigger
from bluffside.core.triggers.by_hand import ByHand
from bluffside.core.triggers.tag_added import TagAdded

AnyTrigger = Annotated[TagAdded | ByHand, Field(discriminator="kind")]

__all__ = ["AnyTrigger", "ByHand", "TagAdded", "Trigger"]
