"""Email: one email to the contact's address."""

from collections.abc import Iterator, Mapping
from typing import Literal

from bluffside.core.messages.wording import EmailMessage, Wording
from bluffside.core.steps.base import Fault, Mend, part
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Channel


class Email(Speaking):
    label = "Email"
    finds = ("email", "mail", "write")
    sentence = "Emails {message}."
    speaks = "email"

    kind: Literal["email"] = "email"
    message: EmailMessage = part("message", "message", default=EmailMessage())

    def versions(self) -> Mapping[Channel, Wording]:
        return {"email": self.message}

    def faults(self) -> Iterator[Fault]:
        yield from super().faults()
        name = self.message.name or self.label
        if not self.message.subject.strip():
            named = self.message.name
            mend = Mend(f"Use “{named}” as the subject", "set", "message.subject", named) if named else None
            yield Fault("subject-empty", "error", f"“{name}” has no subject yet.", mend)
