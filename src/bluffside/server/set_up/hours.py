"""Hours and days off: what is open in the weeks ahead, in words, and what waits for them."""

from collections import Counter
from collections.abc import Iterator
from datetime import date, time, timedelta
from typing import NamedTuple

from bluffside.core.care.calendar import plain_name, public_holidays
from bluffside.core.care.house import Care
from bluffside.core.care.quiet import Opening
from bluffside.core.steps.for_member import ForMember
from bluffside.core.steps.speaking import Speaking
from bluffside.core.steps.timed import Timed
from bluffside.core.timing.local import at_time, next_clock_change, to_local
from bluffside.core.timing.weekdays import NAMES, WEEKDAYS
from bluffside.core.words import counted, several
from bluffside.core.workflow.document import Workflow, walk
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account

WEEKS = 6
ALL_DAY = (Opening(start=time(), end=time(23, 59)),)  # where no hours are set


class Day(NamedTuple):
    """`closed`: the holiday that keeps it closed; `usual`: whether its hours are those of its weekday; `clocks`: how many
    minutes they go forward on it (back: fewer than none)."""

    day: date
    hours: tuple[Opening, ...]
    closed: str
    usual: bool
    clocks: int


class Holiday(NamedTuple):
    """A public holiday, when it comes next, and whether the business keeps it."""

    name: str
    day: date
    kept: bool


def today(account: Account) -> date:
    return to_local(clock.now(), account.zone).date()


def weeks_ahead(account: Account, care: Care) -> list[Day]:
    """Six whole weeks, from the Monday of this one."""
    first = today(account)
    first -= timedelta(days=first.weekday())
    changes = dict(_clock_changes(account.zone, first))
    has_hours = any(care.opening.days.values())
    found = []
    for day in (first + timedelta(days=n) for n in range(7 * WEEKS)):
        usual = care.opening.exception(day) is None
        closed = care.closed(day)
        hours = care.hours_on(day) if has_hours else () if closed else ALL_DAY
        found.append(Day(day, hours, closed, usual, changes.get(day, 0)))
    return found


def _clock_changes(zone: str, first: date) -> Iterator[tuple[date, int]]:
    day = next_clock_change(clock.now() - timedelta(days=7), zone)
    if day and day >= first:
        before, after = (at_time(one, time(), zone) for one in (day, day + timedelta(days=1)))
        yield day, round((timedelta(days=1) - (after - before)).total_seconds() / 60)


def in_a_sentence(care: Care, days: list[Day]) -> str:
    """ "Open 53 hours a week. In these six weeks 35 days are open, 7 closed: five Mondays, Good Friday." """
    if not any(care.opening.days.values()):
        return "No hours are set: calls and to-dos fall due at any hour."
    minutes = sum(_minutes(one) for hours in care.opening.days.values() for one in hours)
    closed = [one for one in days if not one.hours]
    week = f"Open {counted(round(minutes / 60), 'hour')} a week."
    if not closed:
        return f"{week} In these six weeks every day is open."
    weekly = Counter(NAMES[WEEKDAYS[one.day.weekday()]] for one in closed if not one.closed and one.usual)
    why = [counted(count, name) for name, count in weekly.items()]
    why += dict.fromkeys(plain_name(one.closed) for one in closed if one.closed)
    if others := sum(1 for one in closed if not one.closed and not one.usual):
        why.append(counted(others, "day closed as an exception", "days closed as an exception"))
    return f"{week} In these six weeks {counted(len(days) - len(closed), 'day is', 'days are')} open, {len(closed)} closed: {several(why)}."


def _minutes(one: Opening) -> int:
    return max(0, (one.end.hour - one.start.hour) * 60 + one.end.minute - one.start.minute)


def holidays_ahead(account: Account, care: Care) -> list[Holiday]:
    """Each public holiday of the account's calendar, with its next day."""
    now = today(account)
    calendar, found = care.holidays, dict[str, Holiday]()
    for year in (now.year, now.year + 1):
        for day, said in public_holidays(calendar.country, calendar.region, year):
            name = plain_name(said)
            if day >= now and name not in found:
                found[name] = Holiday(name, day, name not in calendar.worked)
    return sorted(found.values(), key=lambda one: one.day)


def waits_for_hours(document: Workflow) -> bool:
    """Whether something of it falls due when the team is there."""
    return any(isinstance(step, ForMember) for step in walk(document.steps))


def skips_holidays(document: Workflow) -> bool:
    return any(isinstance(step, Timed) and step.skip_holidays for step in walk(document.steps))


def speaks(document: Workflow) -> bool:
    return any(isinstance(step, Speaking) for step in walk(document.steps))
