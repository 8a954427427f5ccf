"""Email: to the contact's address, with a subject; plain words, or a letter in lines."""

from collections.abc import Callable, Iterator
from typing import Annotated, Self

from pydantic import Field, model_validator

from bluffside.core.channel_kinds.base import ChannelKind
from bluffside.core.channel_kinds.mail_head import AttachedFile, MailHead, SentHead
from bluffside.core.channel_kinds.wording import Line, Other, Wording, say_what_the_letter_says
from bluffside.core.letters.document import Letter
from bluffside.core.letters.link_tags import LinkTags


class OtherEmail(Other):
    letter: Letter | None = None

    @model_validator(mode="after")
    def _says_what_the_letter_says(self) -> Self:
        say_what_the_letter_says(self)
        return self

    @property
    def as_letter(self) -> Letter | None:
        return self.letter


class EmailMessage(Wording):
    """`body` is plain words in paragraphs: those of the `letter`, where it is written in lines."""

    wants = ("subject",)

    subject: Line = ""
    letter: Letter | None = None
    head: MailHead = MailHead()
    others: Annotated[tuple[OtherEmail, ...], Field(max_length=20)] = ()

    @model_validator(mode="after")
    def _says_what_the_letter_says(self) -> Self:
        say_what_the_letter_says(self)
        return self

    @property
    def as_letter(self) -> Letter | None:
        return self.letter

    @property
    def files(self) -> tuple[AttachedFile, ...]:
        return self.head.files

    def texts(self) -> tuple[str, ...]:
        return (*super().texts(), *self.head.texts())

    def head_for(self, render: Callable[[str], str], usual: LinkTags) -> SentHead | None:
        return self.head.for_one(render, usual, self.name)

    def faults(self) -> Iterator[str]:
        yield from super().faults()
        yield from self.head.faults()

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
