"""Questions of a form whose answer is more than words, such as a time to come at: what can be chosen, and what becomes of it. The areas
that keep such things stand above this one; each registers itself by the word that what its questions fill begins with
("appointment:Taster sail")."""

from dataclasses import dataclass
from typing import NamedTuple, Protocol

from bluffside.server.events.stream import Cause
from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account


class Choice(NamedTuple):
    """`value` is what is sent; `heading`: what it stands under."""

    value: str
    words: str
    heading: str


class Gone(ValueError):
    """What was chosen cannot be had (any more); in words, for whoever chose it."""


class Sort(Protocol):
    """A sort of such questions."""

    def names(self, account: Account) -> list[str]:
        """What it can be asked for."""

    def label(self, name: str) -> str: ...

    def choices(self, account: Account, name: str) -> list[Choice]: ...

    def words(self, account: Account, value: str) -> str:
        """A choice as people read it, also when it is none any more."""

    def take(self, contact: Contact, name: str, value: str, cause: Cause) -> None:
        """They have chosen. Raises Gone."""


_sorts: dict[str, Sort] = {}


def ask_for(word: str, sort: Sort) -> None:
    """Called when apps are ready."""
    _sorts[word] = sort


@dataclass(frozen=True, slots=True)
class Asking:
    """What one question asks for."""

    sort: Sort
    name: str

    def choices(self, account: Account) -> list[Choice]:
        return self.sort.choices(account, self.name)

    def check(self, account: Account, value: str) -> None:
        """Raises Gone."""
        if value not in {one.value for one in self.choices(account)}:
            raise Gone("That cannot be chosen any more: please choose again")


def asking(fills: str) -> Asking | None:
    """None for a question that is answered in words."""
    word, _, name = fills.partition(":")
    return Asking(_sorts[word], name) if word in _sorts else None


def all_that_can_be_asked(account: Account) -> dict[str, str]:
    """What a question can fill, with its label."""
    return {f"{word}:{name}": sort.label(name) for word, sort in _sorts.items() for name in sort.names(account)}
