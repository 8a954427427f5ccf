"""Tests on a person: tags, fields of every kind, lists, reach, consent, score, who is responsible."""

import re
from collections.abc import Callable, Iterator
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from functools import partial
from typing import Literal, Self

from pydantic import model_validator

from bluffside.core.channels.consent import why_closed
from bluffside.core.channels.keywords import plain
from bluffside.core.conditions.base import Case, HowMany, Need, Test, Value, as_number, compare_count, how_many
from bluffside.core.document_part import part
from bluffside.core.facts import FieldValue
from bluffside.core.own_fields import FURTHER, OWN
from bluffside.core.scoring.sheet import called
from bluffside.core.terms import SEVERAL, Channel, Purpose
from bluffside.core.timing.clock_times import calendar_day
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.timing.turning import SECOND, turning

_DAY = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}")
OWN_FIELDS = (*OWN, *FURTHER)


class TagTest(Test):
    """Has, or lacks, a tag."""

    label = "a tag"
    sentence = "{has} the tag {tag}"
    needs = frozenset({"tags"})
    test: Literal["tag"] = "tag"
    tag: str = part("tag", "tag", default="")
    has: bool = part("yes-no", "has or lacks", words={True: "has", False: "lacks"}, default=True)

    def holds(self, case: Case) -> bool:
        return (self.tag in case.contact.tags) == self.has

    def describe(self) -> str:
        return f"{'has' if self.has else 'lacks'} the tag “{self.tag}”"

    def seen(self, case: Case) -> dict[str, str]:
        return {"tags": ", ".join(sorted(case.contact.tags)) or "none"}

    def missing(self) -> str:
        return "" if self.tag else "no tag is named"


class ListTest(Test):
    """Is on, or not on, a list."""

    label = "a list"
    sentence = "is {on} the list {list}"
    needs = frozenset({"lists"})
    test: Literal["list"] = "list"
    list: str = part("list", "list", default="")
    on: bool = part("yes-no", "on or not", words={True: "on", False: "not on"}, default=True)

    def holds(self, case: Case) -> bool:
        return (self.list in case.contact.lists) == self.on

    def describe(self) -> str:
        return f"is {'' if self.on else 'not '}on the list “{self.list}”"

    def seen(self, case: Case) -> dict[str, str]:
        return {"lists": ", ".join(sorted(case.contact.lists)) or "none"}

    def missing(self) -> str:
        return "" if self.list else "no list is named"


Compare = Literal[
    "known", "missing", "is", "is_not", "contains", "any_of",
    "more_than", "less_than", "before", "after", "in_the_last", "in_the_next",
]  # fmt: skip
WITHOUT_VALUE = ("known", "missing", "any_of")
SPANS = ("in_the_last", "in_the_next")
WITH_VALUE = ("is", "is_not", "contains", "more_than", "less_than", "before", "after", *SPANS)
COMPARE_WORDS = {
    **{one: f"is {one.replace('_', ' ')}" for one in ("known", "missing", "more_than", "less_than", "before", "after")},
    "is": "is",
    "is_not": "is not",
    "contains": "contains",
    "any_of": "is one of",
    **{one: f"is {one.replace('_', ' ')}" for one in SPANS},
}


def _reaches(reach: Callable[[datetime, str], datetime], day: date, zone: str, now: datetime) -> bool:
    return to_local(reach(now, zone), zone).date() >= day


class FieldTest(Test):
    """A field of any kind, the contact's own or the account's.

    is, is_not, contains, any_of  letter case and punctuation do not matter; of several choices, one is enough
    more_than, less_than          numbers and money
    before, after                 dates, written 2026-03-01
    in_the_last, in_the_next      dates, by a duration of days, weeks or months, today included
    """

    label = "a field"
    sentence = "{field} {compare} {value} {values}"
    needs = frozenset({"fields"})
    test: Literal["field"] = "field"
    field: str = part("field", "field", default="first_name")
    compare: Compare = part("choice", "how", words=COMPARE_WORDS, default="known")
    value: Value = part("line", "value", only={"compare": WITH_VALUE}, default="")
    values: tuple[Value, ...] = part("words", "values", only={"compare": ("any_of",)}, default=())

    @model_validator(mode="after")
    def _value_can_be_compared(self) -> Self:
        if not self.value:  # a draft may be incomplete
            return self
        if self.compare in ("more_than", "less_than") and as_number(self.value) is None:
            raise ValueError(f"“{self.value}” is not a number")
        if self.compare in ("before", "after"):
            calendar_day(self.value)
        if self.compare in SPANS:
            Duration.parse(self.value)
        return self

    def all_needs(self) -> frozenset[Need]:
        return frozenset() if self.field in OWN_FIELDS else self.needs

    def value_of(self, case: Case) -> FieldValue:
        if self.field not in OWN_FIELDS:
            return case.contact.fields.get(self.field)
        own = getattr(case.contact, self.field)
        return to_local(own, case.zone).date() if self.field == "added" and own else own or ""

    def holds(self, case: Case) -> bool:
        value = self.value_of(case)
        known = value not in (None, "", ())
        if self.compare == "known" or self.compare == "missing":
            return known == (self.compare == "known")
        if self.compare == "is_not":
            return not self._is(value, self.value)
        if not known:
            return False
        return self._compared(value, case)

    def _compared(self, value: FieldValue, case: Case) -> bool:
        match self.compare:
            case "is":
                return self._is(value, self.value)
            case "any_of":
                return any(self._is(value, one) for one in self.values)
            case "contains":
                held = value if isinstance(value, tuple) else (_as_words(value),)
                return bool(self.value) and any(self.value.casefold() in one.casefold() for one in held)
            case "more_than" | "less_than":
                number, mark = as_number(value), as_number(self.value)
                if number is None or mark is None:
                    return False
                return number > mark if self.compare == "more_than" else number < mark
            case _:
                return self._dated(value, case)

    def _dated(self, value: FieldValue, case: Case) -> bool:
        day = _as_date(value)
        if day is None or not self.value:
            return False
        if self.compare in ("before", "after"):
            mark = date.fromisoformat(self.value)
            return day < mark if self.compare == "before" else day > mark
        today, length = to_local(case.now, case.zone).date(), Duration.parse(self.value)
        if self.compare == "in_the_last":
            return to_local(length.before(case.now, case.zone), case.zone).date() <= day <= today
        return today <= day <= to_local(length.after(case.now, case.zone), case.zone).date()

    def turns_at(self, case: Case) -> Iterator[datetime]:
        day = _as_date(self.value_of(case)) if self.compare in ("in_the_last", "in_the_next") and self.value else None
        if day is None:
            return
        zone, length, next_day = case.zone, Duration.parse(self.value), day + timedelta(days=1)
        begins, ends = at_time(day, time(), zone), at_time(next_day, time(), zone)
        yield from (begins, ends)
        if self.compare == "in_the_last":  # until the day after comes so long before
            turned = partial(_reaches, length.before, next_day, zone)
            yield from turning(case.now, zone, length, ends, length.after(ends, zone), turned)
        else:
            turned = partial(_reaches, length.after, day, zone)
            yield from turning(case.now, zone, length, begins, length.before(begins, zone), turned)

    @staticmethod
    def _is(value: FieldValue, wanted: str) -> bool:
        if isinstance(value, tuple):
            return any(plain(one) == plain(wanted) for one in value)
        if isinstance(value, Decimal):
            return value == as_number(wanted)
        return plain(_as_words(value)) == plain(wanted)

    def describe(self) -> str:
        name = {"zone": "time zone", "added": "day added"}.get(self.field, self.field.replace("_", " "))
        words = "is " + self.compare.replace("_", " ") if self.compare not in ("is", "is_not", "contains") else ""
        verb = {"is": "is", "is_not": "is not", "contains": "contains", "any_of": "is one of"}.get(self.compare, words)
        if self.compare in WITHOUT_VALUE:
            several = " or ".join(f"“{one}”" for one in self.values)
            return f"{name} {verb} {several}".rstrip()
        return f"{name} {verb} {self.value}" if self.compare in SPANS else f"{name} {verb} “{self.value}”"

    def seen(self, case: Case) -> dict[str, str]:
        return {self.field: _as_words(self.value_of(case)) or "missing"}

    def missing(self) -> str:
        if not self.field:
            return "no field is named"
        empty = not self.values if self.compare == "any_of" else not self.value and self.compare not in WITHOUT_VALUE
        return "there is nothing to compare the field with" if empty else ""


def _as_words(value: FieldValue) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        return ", ".join(value)
    if isinstance(value, Decimal):
        return f"{value:f}"
    return "" if value is None else str(value)


def _as_date(value: FieldValue) -> date | None:
    """A day, or words that write one as 2026-03-01, and nothing else that a computer would take for one."""
    if isinstance(value, date):
        return value
    try:
        return date.fromisoformat(value) if isinstance(value, str) and _DAY.fullmatch(value) else None
    except ValueError:
        return None


class ReachTest(Test):
    """Can, or cannot, be reached on a channel for a purpose: an address that works, and nothing forbids it."""

    label = "whether they can be reached"
    sentence = "{can} be reached by {channel} for {purpose}"
    needs = frozenset({"consents"})
    test: Literal["reach"] = "reach"
    channel: Channel = part("channel", "channel", default="text")
    can: bool = part("yes-no", "can or cannot", words={True: "can", False: "cannot"}, default=True)
    purpose: Purpose = part("choice", "purpose", default="marketing")

    def holds(self, case: Case) -> bool:
        return (self._closed(case) == "") == self.can

    def _closed(self, case: Case) -> str:
        return why_closed(case.contact, self.channel, self.purpose, case.facts.account.care, case.now)

    def describe(self) -> str:
        what = "" if self.purpose == "marketing" else f" for {self.purpose}"
        return f"{'can' if self.can else 'cannot'} be reached by {self.channel}{what}"

    def seen(self, case: Case) -> dict[str, str]:
        return {self.channel: self._closed(case) or "open"}


SAID = {
    "given": "agreed to",
    "withdrawn": "opted out of",
    "asked": "was asked about",
    "nothing": "has said nothing about",
}


class ConsentTest(Test):
    """What the contact said about being written to; "nothing" when never asked nor said."""

    label = "consent"
    sentence = "{state} {channel} for {purpose}"
    needs = frozenset({"consents"})
    test: Literal["consent"] = "consent"
    channel: Channel = part("channel", "channel", words=SEVERAL, default="email")
    purpose: Purpose = part("choice", "purpose", default="marketing")
    state: Literal["given", "withdrawn", "asked", "nothing"] = part(
        "choice", "what was said", words=SAID, default="given"
    )

    def _state(self, case: Case) -> str:
        said = case.contact.consent(self.channel, self.purpose)
        return said.state if said else "nothing"

    def holds(self, case: Case) -> bool:
        return self._state(case) == self.state

    def describe(self) -> str:
        return f"{SAID[self.state]} {SEVERAL[self.channel]} for {self.purpose}"

    def seen(self, case: Case) -> dict[str, str]:
        return {f"consent to {SEVERAL[self.channel]} for {self.purpose}": self._state(case)}


class ScoreTest(Test):
    """A score at the moment it is looked at."""

    label = "the lead score"
    sentence = "{score} is {compare} {points}"
    needs = frozenset({"score"})
    test: Literal["score"] = "score"
    compare: HowMany = part("choice", "how", default="at_least")
    points: float = part("count", "points", default=0, ge=-1_000_000, le=1_000_000)
    score: str = part("score", "which score", empty="score", default="", max_length=40)

    def holds(self, case: Case) -> bool:
        return compare_count(case.contact.score.at(case.now, self.score), self.compare, self.points)

    def turns_at(self, case: Case) -> Iterator[datetime]:
        if at := case.contact.score.crosses(self.points, case.now, self.score):
            yield from (at, at + SECOND)  # it may stand at the very mark for a moment

    def describe(self) -> str:
        return f"{called(self.score)} is {how_many(self.compare, f'{self.points:g}')}"

    def seen(self, case: Case) -> dict[str, str]:
        return {called(self.score): f"{case.contact.score.at(case.now, self.score):.1f}"}


class OwnerTest(Test):
    """Who is responsible; empty: anybody at all."""

    label = "who is responsible"
    sentence = "{member} {responsible} responsible"
    needs = frozenset({"contact"})
    test: Literal["owner"] = "owner"
    member: str = part("member", "member", empty="somebody", default="")
    responsible: bool = part("yes-no", "is or is not", words={True: "is", False: "is not"}, default=True)

    def holds(self, case: Case) -> bool:
        owner = case.contact.owner
        return (owner == self.member if self.member else bool(owner)) == self.responsible

    def describe(self) -> str:
        return f"{self.member or 'somebody'} is {'' if self.responsible else 'not '}responsible"

    def seen(self, case: Case) -> dict[str, str]:
        return {"responsible": case.contact.owner or "nobody"}
