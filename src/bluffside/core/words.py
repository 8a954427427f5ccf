"""How times, counts and numbers are written, wherever the server says them: "Tue 3 Mar, 09:30", "1,204 people". Names of days,
plural rules and marks are those of CLDR (Unicode, UTS 35), by Babel. The page writes the same by Intl (web/src/ui/words.ts);
tests/words.json holds both to the same examples.
"""

import re
from collections.abc import Sequence
from datetime import date, datetime, timedelta
from decimal import Decimal
from functools import lru_cache

from babel import Locale, UnknownLocaleError
from babel.dates import format_date, format_skeleton, format_time, get_date_format, get_day_names
from babel.lists import format_list
from babel.numbers import format_currency, format_decimal

from bluffside.core.timing.local import to_local

# "en" for the names of months: British English shortens September, and no other, to four letters.
NAMES, MARKS = Locale("en"), Locale("en", "GB")


@lru_cache(4096)
def _day(one: date, with_year: bool) -> str:
    return format_date(one, "EEE d MMM y" if with_year else "EEE d MMM", NAMES)


def moment(instant: datetime, zone: str, now: datetime | None = None) -> str:
    """As the wall clock of a zone shows it; with its year when that is not the one of `now`."""
    local = to_local(instant, zone)
    other = now is not None and to_local(now, zone).year != local.year
    return f"{_day(local.date(), other)}, {local:%H:%M}"


def full_moment(instant: datetime, zone: str) -> str:
    """ "Tue 3 Mar 2026, 09:30": where it is read years later."""
    local = to_local(instant, zone)
    return f"{day(local.date())}, {local:%H:%M}"


def day(one: date) -> str:
    """ "Tue 3 Mar 2026"."""
    return _day(one, True)


def day_of(instant: datetime, zone: str) -> str:
    """The day it is then in a zone."""
    return day(to_local(instant, zone).date())


# ---- in the language of an account (BCP 47), for what its contacts read


def known_language(tag: str) -> str:
    """The tag as it is kept ("en-GB"); empty for one that CLDR does not know."""
    try:
        return str(Locale.parse(tag.strip(), sep="-")).replace("_", "-")
    except (ValueError, UnknownLocaleError, TypeError):
        return ""


@lru_cache(256)
def _locale(language: str) -> Locale:
    return Locale.parse(language or "en-GB", sep="-")


def date_in(language: str, one: date) -> str:
    """ "3 April 1987", "April 3, 1987"."""
    return format_date(one, "long", _locale(language))


def weekday_in(language: str, one: date) -> str:
    """ "Monday 2 March", "Monday, March 2": a day that is near, so without its year."""
    try:
        return str(format_skeleton("MMMMEEEEd", one, fuzzy=False, locale=_locale(language)))
    except KeyError:
        full = get_date_format("full", _locale(language)).pattern
        return format_date(one, re.sub(r"(?:,? (?:'\w+' )?)?\by+[年.]?,? ?", "", full).strip(), _locale(language))


def weekday_name_in(language: str, weekday: int) -> str:
    """ "Monday" for 0, as it stands at the head of a line."""
    return str(get_day_names("wide", "stand-alone", _locale(language))[weekday])


def time_in(language: str, local: datetime) -> str:
    """ "14:05", "2:05 PM"."""
    return format_time(local.time(), "short", locale=_locale(language)).replace("\u202f", " ")


def place(zone: str) -> str:
    """The town an IANA zone is named for: "Hobart"."""
    return zone.rsplit("/", 1)[-1].replace("_", " ")


def several(words: Sequence[str], joint: str = "and") -> str:
    """ "a, b and c", or "a, b or c"."""
    return str(format_list(list(words), "or" if joint == "or" else "standard", MARKS)) if words else ""


def a(words: str) -> str:
    """ "an open deal", "a won deal"."""
    return f"{'an' if words[:1].lower() in 'aeiou' else 'a'} {words}"


def number(count: int) -> str:
    """ "12,345"."""
    return str(count) if abs(count) < 1000 else str(format_decimal(count, locale=MARKS))


def money(amount: Decimal | float, currency: str) -> str:
    """ "£1,204.50", "£300": whole amounts without what is less. `currency` is a code of ISO 4217."""
    said = str(format_currency(amount, currency, locale=MARKS))
    return re.sub(r"\.0+$", "", said)


def counted(count: int, one: str, many: str = "") -> str:
    """ "1 day", "3 days", "1,204 people"."""
    return f"{number(count)} {one if NAMES.plural_form(count) == 'one' else many or one + 's'}"


def span(length: timedelta) -> str:
    """The two largest units of a length of time."""
    seconds = max(0, int(length.total_seconds()))
    words = []
    for unit, size in (("day", 86400), ("hour", 3600), ("minute", 60)):
        amount, seconds = divmod(seconds, size)
        if amount:
            words.append(counted(amount, unit))
    return " ".join(words[:2]) or "less than a minute"
