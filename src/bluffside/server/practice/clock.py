"""The one clock of the server. Everything of the job asks it; nothing calls now() of its own.

It is the real time, plus as far as the demo's clock was moved ahead (one row, so that web and worker
agree; in real use nothing is asked), unless `at()` holds it at an instant in this thread, as tests and the making of the demo do.
Leases and locks, which guard processes and not the job, use real time instead.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import datetime, timedelta

from django.db import transaction
from django.utils import timezone

from bluffside.server.practice import installation
from bluffside.server.practice.models import Installation

_held: ContextVar[datetime | None] = ContextVar("held", default=None)


def now() -> datetime:
    return _held.get() or timezone.now() + ahead()


def ahead() -> timedelta:
    return installation.clock_ahead()


@contextmanager
def at(instant: datetime) -> Iterator[Callable[[datetime], None]]:
    """Holds the clock at an instant in this thread; what is given moves it on from there."""
    token = _held.set(instant)

    def move(to: datetime) -> None:
        _held.set(to)

    try:
        yield move
    finally:
        _held.reset(token)


@transaction.atomic
def move_to(instant: datetime) -> None:
    """Moves the clock of a demo or a test ahead to an instant; it runs on from there. Never moves it back."""
    if installation.is_real():
        raise RuntimeError("the clock of an installation in real use is not moved")
    row = Installation.objects.select_for_update().first() or Installation(clock_ahead=timedelta())
    row.clock_ahead = max(row.clock_ahead, instant - timezone.now())
    row.save()
    installation.forget()
