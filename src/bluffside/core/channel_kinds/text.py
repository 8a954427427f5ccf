"""Text: to the contact's mobile number, in as many parts as its letters need."""

from bluffside.core.channel_kinds.base import ChannelKind
from bluffside.core.channel_kinds.wording import Wording


class TextMessage(Wording):
    def describe(self) -> str:
        return self.name or "a new text"


CHANNEL = ChannelKind(
    name="text",
    rank=2,
    label="Text",
    finds=("text", "sms", "message"),
    sentence="Texts {message}.",
    wording=TextMessage,
    several="texts",
    address="mobile",
    no_address="no mobile number",
    answered=True,
    short=True,
    keywords=True,
    own_page="Text message",
)
