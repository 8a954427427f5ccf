"""Social: a message to the contact's social handle."""

from bluffside.core.channel_kinds.base import ChannelKind
from bluffside.core.channel_kinds.wording import Wording


class SocialMessage(Wording):
    """A message to the contact's social handle."""


CHANNEL = ChannelKind(
    name="social",
    rank=6,
    label="Social message",
    finds=("social", "direct message"),
    sentence="Writes {message} to their social handle.",
    wording=SocialMessage,
    several="social messages",
    address="social",
    no_address="no social handle",
)
