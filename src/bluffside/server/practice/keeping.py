"""How long things are kept: a setting of the practice, in months, for each sort of thing that an area registers.

A worker does it month by month: in a new month, what was there before as many whole months as it is kept is taken away, a
batch at a time (`keep_batch`). What must outlive it (what somebody agreed to, notes, sums by day) is not among these sorts.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from bluffside.core.timing.local import to_instant, to_local
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Practice

BATCH = 5_000
LONGEST = 1_200  # months
SESSION_DAYS = 14


@dataclass(frozen=True, slots=True)
class Sort:
    """`words` say what it is ("what happened to people"), `months` how long it is kept where nobody says otherwise, `least`
    the fewest that may be said. `old` gives the account's rows from before an instant; `take_away` does with a batch of
    them what is to be done, if they are not simply removed."""

    name: str
    words: str
    months: int
    old: Callable[[Account, datetime], QuerySet[Any]]
    least: int = 1
    take_away: Callable[[QuerySet[Any]], object] = lambda rows: rows.delete()


SORTS: dict[str, Sort] = {}


class CannotKeep(ValueError):
    """In words."""


def keep(sort: Sort) -> None:
    """Registers a sort of thing."""
    SORTS[sort.name] = sort


def months(practice: Practice) -> dict[str, int]:
    return {name: practice.keeping.get(name, sort.months) for name, sort in SORTS.items()}


def session_days(practice: Practice) -> int:
    """How long somebody stays signed in who does nothing."""
    return int(practice.keeping.get("session_days", SESSION_DAYS))


@transaction.atomic
def change(practice: Practice, given: Mapping[str, int], days: int) -> None:
    """Takes effect at once, also backward. Raises CannotKeep."""
    for name, number in given.items():
        sort = SORTS.get(name)
        if sort is None:
            raise CannotKeep(f"Nothing is kept by the name of “{name}”.")
        if not sort.least <= number <= LONGEST:
            raise CannotKeep(f"{sort.words.capitalize()}: {sort.least} to {LONGEST:,} months.")
    if not 1 <= days <= 365:
        raise CannotKeep("Signed in: 1 to 365 days.")
    practice.keeping = {**practice.keeping, **given, "session_days": days}
    practice.save(update_fields=["keeping"])
    practice.accounts.update(kept_until_month=None)


def keep_batch(account: Account) -> int:
    """Takes a batch of each sort away that is kept no longer; answers how many. When nothing is left of any, the account
    rests until the next month."""
    now = to_local(clock.now(), account.zone)
    kept, found = months(account.practice), 0
    for sort in SORTS.values():
        rows = sort.old(account, months_before(account, kept[sort.name]))
        ids = list(rows.order_by().values_list("pk", flat=True)[:BATCH])
        if ids:
            sort.take_away(rows.model._default_manager.filter(pk__in=ids))
            found += len(ids)
    if not found:
        Account.objects.filter(id=account.id).update(kept_until_month=_next_month(now, account.zone))
    return found


def months_before(account: Account, count: int) -> datetime:
    """Since when what is kept for so many months is there: the first instant of a month."""
    return _months_before(to_local(clock.now(), account.zone), count, account.zone)


def _months_before(now: datetime, count: int, zone: str) -> datetime:
    month = now.year * 12 + now.month - 1 - count
    return to_instant(datetime(max(1, month // 12), month % 12 + 1, 1), zone)  # noqa: DTZ001  # a local time


def _next_month(now: datetime, zone: str) -> datetime:
    return _months_before(now, -1, zone)
