"""Which days figures are of: a period, and the one as long before it that they are held against."""

from dataclasses import dataclass
from datetime import date, timedelta

from ninja import Schema
from pydantic import Field, model_validator

from bluffside.core.timing.local import to_local
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account

USUAL = 12 * 7  # days
LONGEST = 3 * 366


class PeriodIn(Schema):
    """Days of the account, both included; the last twelve weeks if none are named."""

    since: date | None = Field(default=None, ge=date(2000, 1, 1), le=date(2200, 1, 1))
    until: date | None = Field(default=None, ge=date(2000, 1, 1), le=date(2200, 1, 1))

    @model_validator(mode="after")
    def _in_order(self) -> "PeriodIn":
        if self.since and self.until and not 0 <= (self.until - self.since).days <= LONGEST:
            raise ValueError("a period ends after it begins, and is three years at the longest")
        return self


@dataclass(frozen=True, slots=True)
class Period:
    since: date
    until: date

    @property
    def before(self) -> "Period":
        last = self.since - timedelta(days=1)
        return Period(last - (self.until - self.since), last)

    @classmethod
    def of(cls, account: Account, given: PeriodIn) -> "Period":
        until = given.until or (given.since + timedelta(days=USUAL - 1) if given.since else today(account))
        return cls(given.since or until - timedelta(days=USUAL - 1), until)


class OfPeriod(Schema):
    """What all figures say of their days; `today` is the account's."""

    since: date
    until: date
    today: date


def days_of(account: Account, period: Period) -> dict[str, date]:
    return {"since": period.since, "until": period.until, "today": today(account)}


def today(account: Account) -> date:
    return to_local(clock.now(), account.zone).date()


def monday(day: date) -> date:
    return day - timedelta(days=day.weekday())
