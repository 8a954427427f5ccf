"""The expression: three tests on a contact, and all / any / none of several, nested.

Each class of test says what it takes to hold, how it reads, and what values it looked at; adding a
test is adding a class and naming it in `Condition`.
"""

from abc import abstractmethod
from typing import Annotated, Literal

from pydantic import Field

from bluffside.core.channels.consent import plain, why_closed
from bluffside.core.document_part import DocumentPart
from bluffside.core.facts import Channel, Contact


class Test(DocumentPart):
    @abstractmethod
    def holds(self, contact: Contact) -> bool: ...

    @abstractmethod
    def describe(self) -> str: ...

    @abstractmethod
    def seen(self, contact: Contact) -> dict[str, str]: ...


class TagTest(Test):
    """Has, or lacks, a tag."""

    test: Literal["tag"] = "tag"
    tag: str = ""
    has: bool = True

    def holds(self, contact: Contact) -> bool:
        return (self.tag in contact.tags) == self.has

    def describe(self) -> str:
        return f"{'has' if self.has else 'lacks'} the tag “{self.tag}”"

    def seen(self, contact: Contact) -> dict[str, str]:
        return {"tags": ", ".join(sorted(contact.tags)) or "none"}


class FieldTest(Test):
    """A field is known, missing, equal to a value or contains it (letter case does not matter)."""

    test: Literal["field"] = "field"
    field: Literal["first_name", "last_name", "email", "mobile", "zone"] = "first_name"
    compare: Literal["known", "missing", "is", "contains"] = "known"
    value: str = ""

    def holds(self, contact: Contact) -> bool:
        value = str(getattr(contact, self.field))
        match self.compare:
            case "known":
                return bool(value)
            case "missing":
                return not value
            case "is":
                return plain(value) == plain(self.value)
            case "contains":
                return bool(self.value) and self.value.casefold() in value.casefold()

    def describe(self) -> str:
        name = {"zone": "time zone"}.get(self.field, self.field.replace("_", " "))
        verb = {"known": "is known", "missing": "is missing", "is": "is", "contains": "contains"}[self.compare]
        return f"{name} {verb}" + (f" “{self.value}”" if self.compare in ("is", "contains") else "")

    def seen(self, contact: Contact) -> dict[str, str]:
        return {self.field: str(getattr(contact, self.field)) or "missing"}


class ReachTest(Test):
    """Can, or cannot, be reached on a channel: has an address there and has not opted out."""

    test: Literal["reach"] = "reach"
    channel: Channel = "text"
    can: bool = True

    def holds(self, contact: Contact) -> bool:
        return (why_closed(contact, self.channel) == "") == self.can

    def describe(self) -> str:
        return f"{'can' if self.can else 'cannot'} be reached by {self.channel}"

    def seen(self, contact: Contact) -> dict[str, str]:
        return {self.channel: why_closed(contact, self.channel) or "open"}


class Several(Test):
    of: tuple["Condition", ...] = ()

    def seen(self, contact: Contact) -> dict[str, str]:
        return {name: value for part in self.of for name, value in part.seen(contact).items()}

    def _joined(self, word: str) -> str:
        return f" {word} ".join(f"({p.describe()})" if isinstance(p, Several) else p.describe() for p in self.of)


class AllOf(Several):
    test: Literal["all"] = "all"

    def holds(self, contact: Contact) -> bool:
        return all(part.holds(contact) for part in self.of)

    def describe(self) -> str:
        return self._joined("and") or "always"


class AnyOf(Several):
    test: Literal["any"] = "any"

    def holds(self, contact: Contact) -> bool:
        return any(part.holds(contact) for part in self.of)

    def describe(self) -> str:
        return self._joined("or") or "never"


class NoneOf(Several):
    test: Literal["none"] = "none"

    def holds(self, contact: Contact) -> bool:
        return not any(part.holds(contact) for part in self.of)

    def describe(self) -> str:
        return f"not ({self._joined('or')})" if self.of else "always"


Condition = Annotated[TagTest | FieldTest | ReachTest | AllOf | AnyOf | NoneOf, Field(discriminator="test")]

for _model in (Several, AllOf, AnyOf, NoneOf):
    _model.model_rebuild(_types_namespace={"Condition": Condition})
