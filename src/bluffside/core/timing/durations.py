"""Durations as people say them: "90 minutes", "3 days", "2 weeks".

Seconds, minutes and hours are exact. Days, weeks and months are of the calendar in local time (nominal
durations of RFC 5545, section 3.3.6): a day after 09:00 is 09:00, also when the clocks change between.
A month ends on the last day where the day does not exist (31 January + 1 month = 28 or 29 February).
A hundred years is the most.
"""

import re
from datetime import UTC, datetime, timedelta
from typing import Any

from dateutil.relativedelta import relativedelta
from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema

from bluffside.core.timing.local import FIRST, LAST, within_reach, zone_of

EXACT = ("second", "minute", "hour")
SECONDS = {"second": 1, "minute": 60, "hour": 3_600, "day": 86_400, "week": 7 * 86_400}
MOST_DAYS = 36_600
PATTERN = r"^(0|[1-9]\d{0,4}) (second|minute|hour|day|week|month)s?$"
_ISO = re.compile(r"^P(?:(\d+)W|(\d+)D|(\d+)M)?(?:T(?:(\d+)H)?(?:(\d+)M)?)?$")


class Duration:
    """An amount of one unit. Written in documents as its words; equal durations are written alike."""

    __slots__ = ("amount", "is_exact", "length", "unit")

    def __init__(self, amount: int, unit: str) -> None:
        self.amount = amount
        self.unit = unit
        self.is_exact = unit in EXACT or not amount  # no days at all are no time on any calendar
        self.length: Any = (
            relativedelta(months=amount) if unit == "month" else timedelta(seconds=amount * SECONDS[unit])
        )

    @classmethod
    def parse(cls, words: str) -> "Duration":
        """Reads "3 days". Raises ValueError with an example when it cannot."""
        found = re.match(PATTERN, " ".join(words.lower().split()))
        if not found:
            raise ValueError(f"“{words}” is not a duration; write one like “90 minutes” or “3 days”")
        made = cls(int(found[1]), found[2])
        if made.days > MOST_DAYS:
            raise ValueError(f"“{made}” is more than a hundred years")
        return made

    def after(self, instant: datetime, zone: str) -> datetime:
        """The instant this long after another; the zone decides what a day is."""
        if self.is_exact:
            end: datetime = instant + self.length
            return end if FIRST <= end <= LAST else within_reach(end)
        # On the wall clock; what occurs twice is its first occurrence, since adding gives fold=0.
        end = (instant.astimezone(zone_of(zone)) + self.length).astimezone(UTC)
        return end if FIRST <= end <= LAST else within_reach(end)

    def before(self, instant: datetime, zone: str) -> datetime:
        """The instant this long before another; the zone decides what a day is."""
        if self.is_exact:
            return within_reach(instant - self.length)
        return within_reach((instant.astimezone(zone_of(zone)) - self.length).astimezone(UTC))

    @property
    def days(self) -> int:
        """About how many days it is, for comparing; a month counts as 30."""
        return self.length.days if isinstance(self.length, timedelta) else 30 * self.amount

    def __str__(self) -> str:
        return f"{self.amount} {self.unit}{'' if self.amount == 1 else 's'}"

    def __repr__(self) -> str:
        return f"Duration({str(self)!r})"

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Duration) and str(self) == str(other)

    def __hash__(self) -> int:
        return hash(str(self))

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_plain_validator_function(
            lambda value: value if isinstance(value, cls) else cls.parse(str(value)),
            serialization=core_schema.to_string_ser_schema(when_used="always"),
        )

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {"type": "string", "pattern": PATTERN, "examples": ["90 minutes", "3 days"]}


def parse_elapsed(text: str) -> Duration | timedelta:
    """Reads an elapsed time of an events file: words ("3 hours") or an ISO 8601 duration ("PT3H", "P2D")."""
    iso = _ISO.match(text.strip())
    if not iso or not any(iso.groups()):
        return Duration.parse(text)
    if any(part and len(part) > 7 for part in iso.groups()):
        raise ValueError(f"“{text}” is more than a hundred years")
    weeks, days, months, hours, minutes = (int(part or 0) for part in iso.groups())
    clock = timedelta(hours=hours, minutes=minutes)
    for amount, unit in ((weeks, "week"), (days, "day"), (months, "month")):
        if amount and clock:
            raise ValueError(f"“{text}” mixes calendar and clock time; write one of them")
        if amount:
            return Duration.parse(f"{amount} {unit}")
    if clock.days > MOST_DAYS:
        raise ValueError(f"“{text}” is more than a hundred years")
    return clock


def after(instant: datetime, elapsed: Duration | timedelta, zone: str) -> datetime:
    return within_reach(instant + elapsed) if isinstance(elapsed, timedelta) else elapsed.after(instant, zone)
