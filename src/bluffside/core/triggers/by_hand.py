"""By hand: someone on the team enrols the contact."""

from typing import Literal

from bluffside.core.triggers.base import Trigger


class ByHand(Trigger):
    label = "by hand"
    sentence = "when someone is enrolled by hand"

    kind: Literal["by_hand"] = "by_hand"
