"""Date: a day of the calendar, written with the day, the month or the year first."""

from collections.abc import Sequence

from bluffside.core.facts import FieldValue
from bluffside.server.people.field_kinds.base import FieldKind, How
from bluffside.server.people.reading import Rule, guess_date_rule, read_date


class Date(FieldKind):
    name, rank, label, input = "date", 4, "date", "date"
    rules = ("day_first", "month_first", "year_first")
    guessed = 2
    dated = True

    def read(self, text: str, how: How) -> FieldValue:
        return read_date(text, how.rule or "year_first")  # as browsers and files of our own write it

    def guess_rule(self, values: Sequence[str]) -> Rule:
        return guess_date_rule(values)


KIND = Date()
