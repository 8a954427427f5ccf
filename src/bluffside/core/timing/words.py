"""Instants and spans as people write them: "Tue 3 Mar, 09:30", "3 hours 12 minutes"."""

from datetime import date, datetime, timedelta

from bluffside.core.timing.local import to_local


def moment(instant: datetime, zone: str) -> str:
    local = to_local(instant, zone)
    return f"{local:%a} {local.day} {local:%b}, {local:%H:%M}"


def full_moment(instant: datetime, zone: str) -> str:
    """ "Tue 3 Mar 2026, 09:30": where it is read years later."""
    local = to_local(instant, zone)
    return f"{day(local.date())}, {local:%H:%M}"


def day(one: date) -> str:
    """ "Tue 3 Mar 2026"."""
    return f"{one:%a} {one.day} {one:%b %Y}"


def day_of(instant: datetime, zone: str) -> str:
    """The day it is then in a zone."""
    return day(to_local(instant, zone).date())


def place(zone: str) -> str:
    """The town an IANA zone is named for: "Hobart"."""
    return zone.rsplit("/", 1)[-1].replace("_", " ")


def several(words: list[str], joint: str = "and") -> str:
    """ "a, b and c"."""
    return f"{', '.join(words[:-1])} {joint} {words[-1]}" if len(words) > 1 else "".join(words)


def a(words: str) -> str:
    """ "an open deal", "a won deal"."""
    return f"{'an' if words[:1].lower() in 'aeiou' else 'a'} {words}"


def counted(number: int, one: str, many: str = "") -> str:
    """ "1 day", "3 days"."""
    return f"{number} {one if number == 1 else many or one + 's'}"


def span(length: timedelta) -> str:
    """The two largest units of a length of time."""
    seconds = max(0, int(length.total_seconds()))
    words = []
    for unit, size in (("day", 86400), ("hour", 3600), ("minute", 60)):
        amount, seconds = divmod(seconds, size)
        if amount:
            words.append(counted(amount, unit))
    return " ".join(words[:2]) or "less than a minute"
