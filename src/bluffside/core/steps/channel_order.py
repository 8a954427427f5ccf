"""Channel order: the channels the contact would rather hear on, the dearest first."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.conditions import Need
from bluffside.core.engine.effects import SetChannelOrder
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Fault, OneAct, needs, part
from bluffside.core.terms import Channel


class ChangeChannelOrder(OneAct):
    label = "Channel order"
    finds = ("channel order", "prefers", "preference")
    sentence = "From now on prefers {order}."

    kind: Literal["channel_order"] = "channel_order"
    order: tuple[Channel, ...] = part("channels", "channels in order", default=("text",))

    def describe(self) -> str:
        return f"From now on prefers {', then '.join(self.order) or '…'}."

    def act(self, turn: Turn) -> None:
        order = tuple(dict.fromkeys(self.order))
        turn.do(SetChannelOrder(*turn.key, order))
        turn.because("From now on prefers {}.", ", then ".join(order))

    def needs(self) -> frozenset[Need]:
        return frozenset({"contact"})

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.order, "order-empty", "No channel is named yet.")
