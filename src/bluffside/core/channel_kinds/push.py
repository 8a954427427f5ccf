"""Push: a notice on the device on which the contact allowed it."""

from bluffside.core.channel_kinds.base import ChannelKind
from bluffside.core.channel_kinds.wording import Line, Wording
from bluffside.core.letters.document import Letter


class PushMessage(Wording):
    """`link` is where the notice leads when it is pressed; it goes out as its last line."""

    title: Line = ""
    link: Line = ""

    @property
    def heading(self) -> str:
        return self.title

    def in_turn(self, number: int) -> tuple[str, str, Letter | None]:
        heading, body, letter = super().in_turn(number)
        return heading, f"{body}\n{self.link}" if self.link else body, letter


CHANNEL = ChannelKind(
    name="push",
    rank=5,
    label="Push notice",
    finds=("push", "notify"),
    sentence="Shows the notice {message}.",
    wording=PushMessage,
    several="push notices",
    address="push",
    no_address="no device for push notices",
    short=True,
)
