"""The wording of one message, by channel. `name` is how the team calls it; the rest may hold merge fields."""

from typing import Annotated

from pydantic import Field

from bluffside.core.document_part import DocumentPart
from bluffside.core.terms import Channel

Name = Annotated[str, Field(max_length=120)]
Line = Annotated[str, Field(max_length=500)]
Body = Annotated[str, Field(max_length=20_000)]


class Other(DocumentPart):
    """Another wording of a message. An empty heading is that of the first wording."""

    heading: Line = ""
    body: Body = ""


class Wording(DocumentPart):
    """`others` take turns with the first wording: who gets the message again reads another."""

    name: Name = ""
    body: Body = ""
    others: Annotated[tuple[Other, ...], Field(max_length=20)] = ()

    @property
    def heading(self) -> str:
        """What stands above the body: the subject of an email, the title of a push notice."""
        return ""

    def texts(self) -> tuple[str, ...]:
        """All that is written, for finding merge fields."""
        others = (text for other in self.others for text in (other.heading, other.body))
        return tuple(text for text in (self.heading, self.body, *others) if text)

    def in_turn(self, number: int) -> tuple[str, str]:
        """Heading and body for who has had the message `number` times before."""
        wordings = [(self.heading, self.body), *((one.heading or self.heading, one.body) for one in self.others)]
        return wordings[number % len(wordings)]

    def describe(self) -> str:
        return self.name or "a new message"


class TextMessage(Wording):
    def describe(self) -> str:
        return self.name or "a new text"


class EmailMessage(Wording):
    """`body` is plain words in paragraphs."""

    subject: Line = ""

    @property
    def heading(self) -> str:
        return self.subject

    def describe(self) -> str:
        return self.name or "a new email"


class VoicemailMessage(Wording):
    """`body` is what the recording says."""


class LetterMessage(Wording):
    """A letter or postcard to be printed and posted; `body` is what it says."""


class PushMessage(Wording):
    """`link` is where the notice leads when it is pressed; it goes out as its last line."""

    title: Line = ""
    link: Line = ""

    @property
    def heading(self) -> str:
        return self.title

    def in_turn(self, number: int) -> tuple[str, str]:
        heading, body = super().in_turn(number)
        return heading, f"{body}\n{self.link}" if self.link else body


class SocialMessage(Wording):
    """A message to the contact's social handle."""


WORDINGS: dict[Channel, type[Wording]] = {
    "text": TextMessage,
    "email": EmailMessage,
    "voicemail": VoicemailMessage,
    "letter": LetterMessage,
    "push": PushMessage,
    "social": SocialMessage,
}
