"""Contact added: by anyone, in any way."""

from typing import Literal

from bluffside.core.conditions import AllOf, Condition
from bluffside.core.triggers.base import Trigger


class ContactAdded(Trigger):
    label = "when a contact is added"
    sentence = "when a contact is added"
    listens_to = ("contact.added",)

    kind: Literal["contact_added"] = "contact_added"

    def already(self) -> Condition | None:
        return AllOf()  # everyone
