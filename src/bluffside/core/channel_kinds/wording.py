"""The wording of one message, which each channel adds to. `name` is how the team calls it; the rest may hold merge fields."""

from typing import Annotated, ClassVar

from pydantic import Field

from bluffside.core.document_part import DocumentPart
from bluffside.core.letters.document import Letter

Name = Annotated[str, Field(max_length=120)]
Line = Annotated[str, Field(max_length=500)]
LONGEST_BODY = 20_000
Body = Annotated[str, Field(max_length=LONGEST_BODY)]


class Other(DocumentPart):
    """Another wording of a message. An empty heading is that of the first wording."""

    heading: Line = ""
    body: Body = ""


class Wording(DocumentPart):
    """`others` take turns with the first wording: who gets the message again reads another. `wants` names the lines
    besides the body that must not be empty."""

    wants: ClassVar[tuple[str, ...]] = ()

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

    def letter_in_turn(self, number: int) -> Letter | None:
        """The letter in lines that says the body, where there is one."""
        return None

    def describe(self) -> str:
        return self.name or "a new message"
