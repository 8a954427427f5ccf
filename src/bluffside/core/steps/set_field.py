"""Field: write a value into one of the contact's fields, or empty it."""

from collections.abc import Iterator
from decimal import Decimal
from typing import Literal

import phonenumbers

from bluffside.core.conditions.base import as_number
from bluffside.core.email_addresses import normalised
from bluffside.core.engine.effects import SetField
from bluffside.core.engine.turn import Turn
from bluffside.core.facts import FieldValue
from bluffside.core.messages.merge import faults
from bluffside.core.own_fields import OWN
from bluffside.core.steps.base import Fault, OneAct, needs, part
from bluffside.core.timing.clock_times import calendar_day
from bluffside.core.timing.local import known_zone, to_local

Kind = Literal["text", "number", "date", "yes_no", "choices"]
SETTABLE = frozenset(name for name, one in OWN.items() if one.set)


def own_value(field: str, text: str) -> str:
    """A value of a field that every contact has, as it is kept. Raises ValueError in words."""
    if field == "zone":
        return known_zone(text)
    if field == "email":
        return normalised(text)
    if field == "mobile":
        try:
            number = phonenumbers.parse(text, None)
        except phonenumbers.NumberParseException:
            raise ValueError(f"“{text}” is not a number with its country (+44 …)") from None
        return str(phonenumbers.format_number(number, phonenumbers.PhoneNumberFormat.E164))
    return text


class WriteField(OneAct):
    """`value` may hold merge fields. `holds` says what it is read as; a date may be "today". Several choices are
    divided by commas. Empty: the field is emptied."""

    label = "Field"
    finds = ("field", "set", "write into")
    sentence = "Sets {field} to {value}."

    kind: Literal["set_field"] = "set_field"
    field: str = part("field", "field", default="", max_length=80)
    value: str = part("line", "value", empty="nothing", default="", max_length=2_000)
    holds: Kind = part("choice", "kind of value", default="text")

    def read(self, text: str, turn: Turn) -> FieldValue:
        """The words as a value of the kind. Raises ValueError in words."""
        text = text.strip()
        if not text:
            return None
        match self.holds:
            case "number":
                number = as_number(text)
                if number is None:
                    raise ValueError(f"“{text}” is not a number")
                return Decimal(number)
            case "date":
                today = to_local(turn.now, turn.zone).date()
                return today if text == "today" else calendar_day(text)
            case "yes_no":
                return text.casefold() in ("yes", "true", "1")
            case "choices":
                return tuple(one.strip() for one in text.split(",") if one.strip())
        return own_value(self.field, text)

    def act(self, turn: Turn) -> None:
        text = turn.render(self.value)
        try:
            value = self.read(text, turn)
        except ValueError as error:
            turn.because("Left {} as it is: {}.", self.field, str(error))
            return
        turn.do(SetField(*turn.key, self.field, value, self.field in SETTABLE))
        turn.because("Set {} to “{}”.", self.field, text)

    def brings(self) -> Iterator[tuple[str, str]]:
        yield "field.changed", self.field

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.field, "field-empty", "No field is named yet.")
        for fault in faults(self.value):
            yield Fault("value-unreadable", "error", f"The value {fault}.")
        if self.field in SETTABLE and self.value and "{" not in self.value:
            try:
                own_value(self.field, self.value.strip())
            except ValueError as error:
                yield Fault("value-unreadable", "error", f"{error}.")
        if self.holds == "number" and self.value and "{" not in self.value and as_number(self.value) is None:
            yield Fault("value-unreadable", "error", f"“{self.value}” is not a number.")
