"""Opening hours as a contact reads them, in the account's language (CLDR)."""

from datetime import date, datetime
from itertools import groupby

from bluffside.core.care.quiet import Opening, OpeningHours
from bluffside.core.timing.weekdays import WEEKDAYS
from bluffside.core.words import time_in, weekday_name_in

A_MONDAY = date(2026, 3, 2)


def week_in_words(hours: OpeningHours, language: str) -> str:
    """A line for each run of days that are alike: "Monday – Friday 09:00 – 17:00". Days that are closed are not named; empty for a
    business without hours."""

    def on(day: int) -> tuple[Opening, ...]:
        return tuple(sorted(hours.days.get(WEEKDAYS[day], ()), key=lambda one: one.start))

    lines = []
    for open, days in groupby(range(7), on):
        first, *more = days
        if not open:
            continue
        named = [weekday_name_in(language, first)] + ([weekday_name_in(language, more[-1])] if more else [])
        times = ", ".join(
            " – ".join(time_in(language, datetime.combine(A_MONDAY, at)) for at in (one.start, one.end)) for one in open
        )
        lines.append(f"{' – '.join(named)} {times}")
    return "\n".join(lines)
