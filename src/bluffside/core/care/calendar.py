"""Public holidays: the calendar of a country or region (the `holidays` package), with days of one's own.

Packaged calendars are known for the years around now; a day the account adds or works on is stated by date.
"""

from collections.abc import Mapping
from datetime import date
from functools import cache

import holidays
from pydantic import Field, model_validator

from bluffside.core.document_part import DocumentPart
from bluffside.core.timing.clock_times import Day


@cache
def _year(country: str, region: str, year: int) -> Mapping[date, str]:
    return dict(holidays.country_holidays(country, subdiv=region or None, years=year, language="en_US"))


@cache
def _known(country: str, region: str) -> bool:
    supported = holidays.list_supported_countries(include_aliases=True)
    return country in supported and (not region or region in supported[country])


class HolidayCalendar(DocumentPart):
    """`country` is ISO 3166-1 ("GB"), `region` the second part of ISO 3166-2 ("ENG"); empty: only `also`."""

    country: str = ""
    region: str = ""
    also: tuple[Day, ...] = Field(default=(), description="days the business is closed beside the public holidays")
    but_not: tuple[Day, ...] = Field(default=(), description="public holidays on which it is open")

    @model_validator(mode="after")
    def _is_known(self) -> "HolidayCalendar":
        if self.country and not _known(self.country, self.region):
            where = f"{self.country}-{self.region}" if self.region else self.country
            raise ValueError(f"there is no holiday calendar for “{where}”; use ISO 3166 codes like GB and ENG")
        return self

    def holiday(self, day: date) -> str:
        """The name of the holiday on a day; empty when it is none."""
        if day in self.but_not:
            return ""
        if day in self.also:
            return "a day the business is closed"
        return _year(self.country, self.region, day.year).get(day, "") if self.country else ""
