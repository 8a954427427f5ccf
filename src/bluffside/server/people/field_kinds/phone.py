"""Phone: a telephone number, kept as E.164."""

from bluffside.core.facts import FieldValue
from bluffside.server.people import addresses
from bluffside.server.people.field_kinds.base import FieldKind, How


class Phone(FieldKind):
    name, rank, label, input = "phone", 8, "phone number", "tel"

    def read(self, text: str, how: How) -> FieldValue:
        return addresses.mobile(text, how.region)


KIND = Phone()
