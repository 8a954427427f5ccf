"""Instants and spans as people write them: "Tue 3 Mar, 09:30", "3 hours 12 minutes"."""

from datetime import datetime, timedelta

from bluffside.core.timing.local import to_local


def moment(instant: datetime, zone: str) -> str:
    local = to_local(instant, zone)
    return f"{local:%a} {local.day} {local:%b}, {local:%H:%M}"


def span(length: timedelta) -> str:
    """The two largest units of a length of time."""
    seconds = max(0, int(length.total_seconds()))
    words = []
    for unit, size in (("day", 86400), ("hour", 3600), ("minute", 60)):
        amount, seconds = divmod(seconds, size)
        if amount:
            words.append(f"{amount} {unit}{'' if amount == 1 else 's'}")
    return " ".join(words[:2]) or "less than a minute"
