"""Link: a web address."""

from bluffside.core.facts import FieldValue
from bluffside.server.people import addresses
from bluffside.server.people.field_kinds.base import FieldKind, How


class Link(FieldKind):
    name, rank, label, input = "link", 9, "web address", "url"
    guessed = 3

    def read(self, text: str, how: How) -> FieldValue:
        return addresses.link(text)


KIND = Link()
