"""What every test of a condition is, and the comparing they share.

A test is one class with a `test` of its own. It says whether it `holds`, how it reads (`describe`), what
it `seen`, what is still `missing` in it, and which facts it needs to be loaded. Adding a test is adding a
class and naming it in `expression.Condition`.
"""

import re
from abc import abstractmethod
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Annotated, ClassVar, Literal

from pydantic import BeforeValidator

from bluffside.core.document_part import DocumentPart
from bluffside.core.facts import Contact, Facts

# What has to be loaded about a contact before a test can be decided.
Need = Literal["contact", "tags", "fields", "lists", "consents", "score", "deals", "appointments", "happened", "free"]


@dataclass(frozen=True, slots=True)
class Case:
    """What a condition is decided on: somebody's facts at an instant."""

    facts: Facts
    now: datetime

    @property
    def contact(self) -> Contact:
        return self.facts.contact

    @property
    def zone(self) -> str:
        return self.facts.zone


class Test(DocumentPart):
    """`label` names it where one chooses what is tested; `sentence` is what the web app edits it in (see Spoken)."""

    label: ClassVar[str] = ""
    sentence: ClassVar[str] = ""
    needs: ClassVar[frozenset[Need]] = frozenset()

    @abstractmethod
    def holds(self, case: Case) -> bool: ...

    def looks_back_on(self) -> frozenset[str]:
        """The kinds of event that it counts among what has happened."""
        return frozenset()

    def turns_at(self, case: Case) -> Iterator[datetime]:
        """The instants at which it may come out otherwise though nothing happens; what is before `case.now` does not matter. None for
        most tests."""
        yield from ()

    @abstractmethod
    def describe(self) -> str: ...

    @abstractmethod
    def seen(self, case: Case) -> dict[str, str]: ...

    def missing(self) -> str:
        """What is not filled in yet, in words; empty when nothing is."""
        return ""

    def all_needs(self) -> frozenset[Need]:
        return self.needs


# Numbers and dates may be written as such in YAML; the document keeps them as words.
Value = Annotated[str, BeforeValidator(lambda value: value if isinstance(value, str) else _plainly(value))]
HowMany = Literal["at_least", "fewer_than", "exactly", "more_than"]
HAS = {True: "has a", False: "has no"}
HAS_AN = {True: "has an", False: "has no"}


def _plainly(value: object) -> object:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value) if isinstance(value, int | float | Decimal) or hasattr(value, "isoformat") else value


def compare_count(count: float, how: HowMany, number: float) -> bool:
    match how:
        case "at_least":
            return count >= number
        case "fewer_than":
            return count < number
        case "exactly":
            return count == number
        case "more_than":
            return count > number


def how_many(how: HowMany, number: object) -> str:
    return f"{how.replace('_', ' ')} {number}"


NUMBER = r"[+-]?([0-9]{1,30}(\.[0-9]{0,30})?|\.[0-9]{1,30})"
_number = re.compile(NUMBER)


def as_number(text: object) -> Decimal | None:
    """A number as people write it ("1200", "12.50", " -3 "); None when it is none. What is a number is said by NUMBER, so
    that the database can tell it the same way."""
    words = f"{text:f}" if isinstance(text, Decimal) else str(text).strip(" \t\r\n")
    return Decimal(words) if _number.fullmatch(words) else None
