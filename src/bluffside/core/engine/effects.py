"""What the engine decides to have done, as data. Carrying it out is the server's, or a rehearsal's.

`step` and `round` are the effect's key within its enrolment: each effect is carried out once for it.
"""

from dataclasses import dataclass, replace
from typing import Literal

from bluffside.core.facts import Channel, Contact


@dataclass(frozen=True, slots=True)
class Effect:
    step: str
    round: int


@dataclass(frozen=True, slots=True)
class SendMessage(Effect):
    """A message rendered for this contact. `subject` is empty for a text."""

    channel: Channel
    name: str
    subject: str
    body: str


@dataclass(frozen=True, slots=True)
class AddTag(Effect):
    tag: str


@dataclass(frozen=True, slots=True)
class RemoveTag(Effect):
    tag: str


@dataclass(frozen=True, slots=True)
class AddNote(Effect):
    text: str


@dataclass(frozen=True, slots=True)
class MakeTask(Effect):
    """Something for the responsible member. `say` is what to say on a call; `attempts` how often to try."""

    task: Literal["call", "to_do"]
    title: str
    say: str = ""
    attempts: int = 1


def apply(contact: Contact, effect: Effect) -> Contact:
    """The contact as later steps of the same turn see it."""
    match effect:
        case AddTag(tag=tag):
            return replace(contact, tags=contact.tags | {tag})
        case RemoveTag(tag=tag):
            return replace(contact, tags=contact.tags - {tag})
    return contact
