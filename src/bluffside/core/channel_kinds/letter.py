"""Letter: a letter or postcard that the print house sends to the contact's postal address."""

from bluffside.core.channel_kinds.base import ChannelKind
from bluffside.core.channel_kinds.wording import Wording


class LetterMessage(Wording):
    """A letter or postcard to be printed and posted; `body` is what it says."""


CHANNEL = ChannelKind(
    name="letter",
    rank=4,
    label="Letter",
    finds=("letter", "postcard", "post"),
    sentence="Posts {message}.",
    wording=LetterMessage,
    several="letters",
    address="post",
    no_address="no postal address",
    reads="read",
    own_page="Letter",
)
