"""Email: one email to the contact's address."""

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from bluffside.core.document_part import DocumentPart
from bluffside.core.steps.base import Fault, needs, part
from bluffside.core.steps.speaking import Speaking


class EmailMessage(DocumentPart):
    """`body` is plain words in paragraphs; subject and body may hold merge fields (see messages.merge)."""

    name: str = Field(default="", max_length=120)
    subject: str = Field(default="", max_length=500)
    body: str = Field(default="", max_length=20_000)

    def describe(self) -> str:
        return self.name or "a new email"


class Email(Speaking):
    label = "Email"
    finds = ("email", "mail", "write")
    sentence = "Emails {message}."
    who = "account"
    speaks = "email"
    channel = "email"

    kind: Literal["email"] = "email"
    message: EmailMessage = part("message", "message", default=EmailMessage())

    def wording(self) -> EmailMessage:
        return self.message

    def subject(self) -> str:
        return self.message.subject

    def faults(self) -> Iterator[Fault]:
        yield from super().faults()
        name = self.message.name or self.label
        yield from needs(self.message.subject, "subject-empty", f"“{name}” has no subject yet.")
