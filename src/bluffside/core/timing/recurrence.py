"""Rules that repeat, as RFC 5545 writes them (section 3.3.10, RECUR), by python-dateutil.

A step takes the next time of a rule, so rules finer than a day, and rules without end that never come
(31 February), are refused.
"""

from datetime import datetime
from functools import lru_cache

from dateutil.rrule import rrule, rrulestr

KNOWN = {"FREQ", "INTERVAL", "COUNT", "UNTIL", "BYDAY", "BYMONTHDAY", "BYMONTH", "BYSETPOS", "BYYEARDAY", "BYWEEKNO",
         "WKST"}  # fmt: skip
FREQUENCIES = {"DAILY": "day", "WEEKLY": "week", "MONTHLY": "month", "YEARLY": "year"}
DAYS = {"MO": "Monday", "TU": "Tuesday", "WE": "Wednesday", "TH": "Thursday", "FR": "Friday", "SA": "Saturday",
        "SU": "Sunday"}  # fmt: skip


class BadRule(ValueError):
    """A rule that cannot be used, in words."""


def parse_rule(text: str) -> dict[str, str]:
    """The parts of a rule by name. Raises BadRule."""
    parts: dict[str, str] = {}
    for piece in text.strip().upper().split(";"):
        name, equals, value = piece.partition("=")
        if not equals or not value or name not in KNOWN:
            raise BadRule(f"“{piece}” is not part of a rule; write one like FREQ=WEEKLY;BYDAY=TU")
        parts[name] = value
    if parts.get("FREQ") not in FREQUENCIES:
        raise BadRule("a rule says FREQ=DAILY, WEEKLY, MONTHLY or YEARLY")
    try:
        rule = rrulestr(text.upper(), dtstart=datetime(2024, 1, 1))  # noqa: DTZ001  # a local time
        first = rule.after(datetime(2023, 12, 31), inc=True)  # noqa: DTZ001  # a local time
    except (ValueError, TypeError, IndexError) as error:
        raise BadRule(f"“{text}” cannot be read as a rule: {error}") from None
    if first is None and "UNTIL" not in parts:
        raise BadRule(f"“{text}” never comes round")
    return parts


@lru_cache(maxsize=1_000)
def _rule(text: str, start: datetime) -> rrule:
    parse_rule(text)
    return rrulestr(text.upper(), dtstart=start, cache=True)  # type: ignore[return-value]


def next_of(text: str, start: datetime, after: datetime) -> datetime | None:
    """The first local time of the rule after another, counted from `start` (DTSTART); None at its end."""
    return _rule(text, start).after(after)


def in_words(text: str) -> str:
    """ "every 2 weeks on Tuesday and Thursday"; what has no words here stays as it is written."""
    parts = parse_rule(text)
    unit, every = FREQUENCIES[parts["FREQ"]], int(parts.get("INTERVAL", "1"))
    said = f"every {unit}" if every == 1 else f"every {every} {unit}s"
    if "BYDAY" in parts:
        said += f" on {' and '.join(_day(one) for one in parts['BYDAY'].split(','))}"
    if "BYMONTHDAY" in parts:
        days = parts["BYMONTHDAY"]
        said += " on the last day" if days == "-1" else f" on day {days.replace(',', ' and ')}"
    if "COUNT" in parts:
        said += f", {parts['COUNT']} times"
    rest = [
        f"{name}={value}"
        for name, value in parts.items()
        if name not in ("FREQ", "INTERVAL", "BYDAY", "BYMONTHDAY", "COUNT")
    ]
    return f"{said} ({';'.join(rest)})" if rest else said


def _day(code: str) -> str:
    number, day = code[:-2], DAYS[code[-2:]]
    which = {"": "", "1": "first ", "2": "second ", "3": "third ", "4": "fourth ", "-1": "last "}
    return f"{'the ' if number else ''}{which.get(number, number + '. ')}{day}"
