"""Public holidays: the calendar of a country or region (the `holidays` package), with days of one's own.

Packaged calendars are known for the years around now; a day the account adds or works on is stated by date.
"""

import re
from collections.abc import Mapping
from datetime import date, timedelta
from functools import cache
from typing import Any, Self

import holidays
from pydantic import Field, model_validator

from bluffside.core.document_part import DocumentPart
from bluffside.core.timing.clock_times import Day

_BESIDE = "; "  # between two holidays of one day, as the package joins them
LONGEST = timedelta(days=366)


@cache
def _year(country: str, region: str, year: int) -> Mapping[date, str]:
    return dict(holidays.country_holidays(country, subdiv=region or None, years=year, language="en_US"))


@cache
def _known(country: str, region: str) -> bool:
    supported = holidays.list_supported_countries(include_aliases=True)
    return country in supported and (not region or region in supported[country])


class DaysOff(DocumentPart):
    """Days on which the business is closed, both included, and what for ("crane on the slip")."""

    first: Day
    last: Day
    name: str = Field(default="", max_length=80)

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if not self.first <= self.last <= self.first + LONGEST:
            raise ValueError("days off end on the day they begin or later, and within a year of it")
        return self


class HolidayCalendar(DocumentPart):
    """`country` is ISO 3166-1 ("GB"), `region` the second part of ISO 3166-2 ("ENG"); empty: only `own`."""

    country: str = ""
    region: str = ""
    own: tuple[DaysOff, ...] = Field(default=(), max_length=400, description="closed beside the public holidays")
    worked: tuple[str, ...] = Field(default=(), description="public holidays on which it is open each year, by name")
    but_not: tuple[Day, ...] = Field(default=(), description="public holidays on which it is open, by date")

    @model_validator(mode="before")
    @classmethod
    def _also_is_own(cls, given: Any) -> Any:
        """Single days without a name, as they were written formerly."""
        if not isinstance(given, dict) or not isinstance(given.get("also"), list | tuple):
            return given
        days = [{"first": day, "last": day} for day in given["also"]]
        return {key: value for key, value in given.items() if key != "also"} | {"own": [*given.get("own", ()), *days]}

    @model_validator(mode="after")
    def _is_known(self) -> Self:
        if self.country and not _known(self.country, self.region):
            where = f"{self.country}-{self.region}" if self.region else self.country
            raise ValueError(f"there is no holiday calendar for “{where}”; use ISO 3166 codes like GB and ENG")
        return self

    def holiday(self, day: date) -> str:
        """The name of the holiday on a day; empty when it is none."""
        for off in self.own:
            if off.first <= day <= off.last:
                return off.name or "a day the business is closed"
        if day in self.but_not or not self.country:
            return ""
        said = _year(self.country, self.region, day.year).get(day, "")
        if not said or not self.worked:
            return said
        names = said.split(_BESIDE)
        return _BESIDE.join(name for name in names if plain_name(name) not in self.worked)


def plain_name(holiday: str) -> str:
    """A holiday's name without what some years add to it: "Christmas Day" of "Christmas Day (observed)"."""
    return re.sub(r" \((?:observed|estimated|observed, estimated)\)$", "", holiday)


def public_holidays(country: str, region: str, year: int) -> list[tuple[date, str]]:
    """Those of a country or a part of it, in their order; two of one day are two."""
    days = sorted(_year(country, region, year).items()) if country and _known(country, region) else ()
    return [(day, name) for day, names in days for name in names.split(_BESIDE)]


@cache
def calendars() -> Mapping[str, tuple[str, ...]]:
    """The countries of which the public holidays are known, each with the parts that have some of their own."""
    return {
        country: tuple(parts) for country, parts in holidays.list_supported_countries(include_aliases=False).items()
    }


@cache
def subdivisions(country: str) -> Mapping[str, str]:
    """The parts of a country with holidays of their own, by their codes (ISO 3166-2), as they are called."""
    named = {code: name for name, code in reversed(holidays.country_holidays(country).subdivisions_aliases.items())}
    return {code: named.get(code, code) for code in calendars().get(country, ())}
