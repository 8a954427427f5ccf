"""Terms of the trade that most of the core uses: channels and purposes.

The channels are those of `core/channel_kinds/`; what they declare stands in `CHANNEL_KINDS`.
"""

from typing import TYPE_CHECKING, Literal

from bluffside.core.channel_kinds import CHANNEL_KINDS

CHANNELS = tuple(CHANNEL_KINDS)
TWO_WAY = tuple(name for name, one in CHANNEL_KINDS.items() if one.answered)

if TYPE_CHECKING:
    Channel = str
    TwoWay = str  # the channels on which a contact can answer
else:
    Channel = Literal[CHANNELS]
    TwoWay = Literal[TWO_WAY]

Purpose = Literal["marketing", "service"]
PURPOSES: tuple[Purpose, ...] = ("marketing", "service")

SEVERAL = {name: one.several for name, one in CHANNEL_KINDS.items()}  # "by text", "opted out of texts"
ADDRESS_OF = {name: one.address for name, one in CHANNEL_KINDS.items()}  # the contact's field with the address
# The channels that go to an address, by the contact's field: where a message on one does not arrive, another's does not.
BY_ADDRESS = {
    one.address: tuple(name for name in CHANNELS if ADDRESS_OF[name] == one.address) for one in CHANNEL_KINDS.values()
}
# The channel by which a further address of each sort is kept: {"email": "email", "mobile": "text"}.
ANSWERED_AT = {ADDRESS_OF[name]: name for name in reversed(TWO_WAY)}

__all__ = [
    "ADDRESS_OF",
    "ANSWERED_AT",
    "BY_ADDRESS",
    "CHANNELS",
    "CHANNEL_KINDS",
    "PURPOSES",
    "SEVERAL",
    "TWO_WAY",
    "Channel",
    "Purpose",
    "TwoWay",
]
