"""Email: to the contact's address, with a subject; paragraphs of plain words."""

from bluffside.core.channel_kinds.base import ChannelKind
from bluffside.core.channel_kinds.wording import Line, Wording


class EmailMessage(Wording):
    """`body` is plain words in paragraphs."""

    wants = ("subject",)

    subject: Line = ""

    @property
    def heading(self) -> str:
        return self.subject

    def describe(self) -> str:
        return self.name or "a new email"


CHANNEL = ChannelKind(
    name="email",
    rank=1,
    label="Email",
    finds=("email", "mail", "write"),
    sentence="Emails {message}.",
    wording=EmailMessage,
    several="email",
    address="email",
    no_address="no email address",
    ours="sender_email",
    answered=True,
    own_page="Email",
)
