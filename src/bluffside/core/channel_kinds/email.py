"""Email: to the contact's address, with a subject; plain words, or a letter in lines."""

from typing import Self

from pydantic import model_validator

from bluffside.core.channel_kinds.base import ChannelKind
from bluffside.core.channel_kinds.wording import LONGEST_BODY, Line, Wording
from bluffside.core.letters.document import Letter


class EmailMessage(Wording):
    """`body` is plain words in paragraphs: those of the `letter`, where it is written in lines."""

    wants = ("subject",)

    subject: Line = ""
    letter: Letter | None = None

    @model_validator(mode="after")
    def _says_what_the_letter_says(self) -> Self:
        if self.letter is not None:
            plain = self.letter.plain()
            if len(plain) > LONGEST_BODY:
                raise ValueError(f"the letter is longer than {LONGEST_BODY:,} letters")
            self.__dict__["body"] = plain  # it is frozen, and this is how it comes to be
        return self

    def letter_in_turn(self, number: int) -> Letter | None:
        return None if number % (len(self.others) + 1) else self.letter

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
