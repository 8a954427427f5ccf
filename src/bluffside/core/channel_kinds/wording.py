"""The wording of one message, which each channel adds to. `name` is how the team calls it; the rest may hold merge fields."""

import hashlib
from collections.abc import Callable, Iterator
from functools import lru_cache
from typing import Annotated, Any, ClassVar

from pydantic import BaseModel, Field

from bluffside.core.channel_kinds.mail_head import AttachedFile, SentHead
from bluffside.core.document_part import DocumentPart
from bluffside.core.letters.document import Letter
from bluffside.core.letters.link_tags import LinkTags

Name = Annotated[str, Field(max_length=120)]
Line = Annotated[str, Field(max_length=500)]
LONGEST_BODY = 20_000
Body = Annotated[str, Field(max_length=LONGEST_BODY)]
Share = Annotated[int, Field(ge=0, le=10_000)]


def say_what_the_letter_says(part: Any) -> None:
    """The body is the plain words of the letter, where there is one. Raises ValueError when they are too long."""
    if part.letter is not None:
        plain = part.letter.plain()
        if len(plain) > LONGEST_BODY:
            raise ValueError(f"the letter is longer than {LONGEST_BODY:,} letters")
        part.__dict__["body"] = plain  # it is frozen, and this is how it comes to be


@lru_cache(maxsize=500)
def _as_text(letter: Letter) -> str:
    """Of each letter once, not for each person who gets it."""
    return letter.model_dump_json(exclude_defaults=True)


class Other(DocumentPart):
    """Another wording of a message. An empty heading is that of the first wording."""

    heading: Line = ""
    body: Body = ""
    share: Share = 1

    @property
    def as_letter(self) -> Letter | None:
        return None


class Wording(DocumentPart):
    """`others` take turns with the first wording: who gets the message again reads another; or each has a share of the people, and the same
    person always reads the same one. `wants` names the lines besides the body that must not be empty."""

    wants: ClassVar[tuple[str, ...]] = ()

    name: Name = ""
    body: Body = ""
    others: Annotated[tuple[Other, ...], Field(max_length=20)] = ()
    by_share: bool = False
    share: Share = 1

    @property
    def heading(self) -> str:
        """What stands above the body: the subject of an email, the title of a push notice."""
        return ""

    @property
    def as_letter(self) -> Letter | None:
        """The letter in lines that says the body of the first wording, where there is one."""
        return None

    def texts(self) -> tuple[str, ...]:
        """All that is written, for finding merge fields."""
        others = (text for other in self.others for text in (other.heading, other.body))
        return tuple(text for text in (self.heading, self.body, *others) if text)

    def letters(self) -> Iterator[Letter]:
        """Of all wordings."""
        yield from (one for one in (self.as_letter, *(other.as_letter for other in self.others)) if one)

    def in_turn(self, number: int) -> tuple[str, str, Letter | None]:
        """Heading, body and letter of the wording of that number, from 0; they go round."""
        at = number % (len(self.others) + 1)
        if not at:
            return self.heading, self.body, self.as_letter
        other = self.others[at - 1]
        return other.heading or self.heading, other.body, other.as_letter

    def by_its_share(self, drawn: float) -> int:
        """The number of the wording for who drew this, from 0 to 1; the first when none has a share."""
        shares = [self.share, *(one.share for one in self.others)]
        left = drawn * sum(shares)
        for number, share in enumerate(shares):
            left -= share
            if left < 0:
                return number
        return 0

    def key_of(self, number: int) -> str:
        """By what a wording is known however often the others change: twelve figures made of its words."""
        heading, body, letter = self.in_turn(number)
        said = (heading, body, _as_text(letter) if letter else "")
        return hashlib.sha256("\0".join(said).encode()).hexdigest()[:12]

    @property
    def files(self) -> tuple[AttachedFile, ...]:
        """What goes with it."""
        return ()

    def head_for(self, render: Callable[[str], str], usual: LinkTags) -> SentHead | None:
        """The head of an email for one person; none of what is no email. `usual`: how the account tags links."""
        return None

    def faults(self) -> Iterator[str]:
        """What is missing or wrong beside its words, as sentences."""
        for letter in self.letters():
            yield from letter.faults()

    def describe(self) -> str:
        return self.name or "a new message"


def wordings_in(line: BaseModel) -> Iterator[tuple[str, Wording]]:
    """The wordings that a line of a script holds, each with its field."""
    for field in type(line).model_fields:
        if isinstance(value := getattr(line, field), Wording):
            yield field, value
