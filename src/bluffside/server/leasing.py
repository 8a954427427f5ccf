"""Work that is handed outside: queued, leased by a worker, handed over, settled or tried again. Messages and requests are rows
of this shape, with the columns state ("queued" and "sending" among others), next_try_at, leased_until and attempts.

    queued    due at next_try_at, by the clock of the job
    sending   leased; once the lease has run out (by real time, since it guards processes), whoever comes first takes it over
"""

import random
from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any

from django.db.models import F, Q, QuerySet
from django.utils import timezone

from bluffside.server.practice import clock
from bluffside.server.practice.models import Account

QUEUED, SENDING = "queued", "sending"


def due(rows: QuerySet[Any], account: Account) -> QuerySet[Any]:
    """What is to be handed over now, the longest waiting first; rows that another worker holds are passed over. The caller
    holds a transaction."""
    waits = Q(state=QUEUED, next_try_at__lte=clock.now())
    left_behind = Q(state=SENDING, leased_until__lt=timezone.now())
    found = rows.filter(waits | left_behind, account=account)
    return found.select_for_update(skip_locked=True, of=("self",)).order_by("next_try_at", "id")


def take(rows: Sequence[Any], lease: timedelta) -> None:
    """Leases rows, and counts the try."""
    until = timezone.now() + lease
    for row in rows:
        row.state, row.leased_until, row.attempts = SENDING, until, row.attempts + 1
    if rows:
        taken = type(rows[0])._base_manager.filter(pk__in=[row.pk for row in rows])
        taken.update(state=SENDING, leased_until=until, attempts=F("attempts") + 1)


def later(now: datetime, attempts: int) -> datetime:
    """When to try again after so many tries in vain: twice as long each time, up to an hour, and never all at once."""
    wait = min(3600, 5 * 2 ** min(attempts, 12)) * random.uniform(0.5, 1.5)  # noqa: S311  # jitter, not a secret
    return now + timedelta(seconds=wait)
