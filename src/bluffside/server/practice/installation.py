"""What the installation is used for: the demo, whose clock can be moved and whose phones are simulated, or real use.

It is written into the database once and never changes there, so a process that has learnt that its use is real asks no more;
in a demo it asks a few times a second.
"""

import time
from datetime import timedelta

from django.conf import settings
from django.db import transaction

from bluffside.server.practice.models import Installation, Practice

Use = Installation.Use
_known_real = False
_asked: tuple[float, timedelta] = (0.0, timedelta())  # until when (time.monotonic) the answer holds
HOLDS = 0.2  # seconds


class InOtherUse(ValueError):
    """In words: what it is used for already."""


def is_real() -> bool:
    """Also False for one that nobody has taken into use yet."""
    return _look()[0]


def clock_ahead() -> timedelta:
    """How far the clock of a demo or a test was moved ahead; none in real use."""
    return _look()[1]


def _look() -> tuple[bool, timedelta]:
    global _known_real, _asked
    if _known_real:
        return True, timedelta()
    if time.monotonic() < _asked[0]:
        return False, _asked[1]
    row = Installation.objects.values_list("use", "clock_ahead").first()
    _known_real = bool(row and row[0] == Use.REAL)
    _asked = time.monotonic() + HOLDS, row[1] if row and not _known_real else timedelta()
    return _known_real, _asked[1]


def forget() -> None:
    """What was learnt is asked again: it has just changed, or (in tests) the database has."""
    global _known_real, _asked
    _known_real, _asked = False, (0.0, timedelta())


def simulates(what: str) -> bool:
    """Whether a channel (or "services": the stand-ins of outside services) is simulated here. In real use it is only where
    BLUFFSIDE_SIMULATED says so."""
    return not is_real() or what in settings.BLUFFSIDE_SIMULATED


def simulates_anything() -> bool:
    return not is_real() or bool(settings.BLUFFSIDE_SIMULATED)


@transaction.atomic
def take_into_use(use: Installation.Use) -> None:
    """Says for good what it is used for. Raises InOtherUse for what is used otherwise."""
    row = Installation.objects.select_for_update().first() or Installation(clock_ahead=timedelta())
    if row.use == use:
        return
    if use == Use.REAL and (row.use == Use.DEMO or row.clock_ahead):
        raise InOtherUse(
            "This database holds the demo. Name an empty one in DATABASE_URL, or another folder in BLUFFSIDE_DATA."
        )
    if use == Use.DEMO and (row.use == Use.REAL or Practice.objects.exists()):
        raise InOtherUse("This database is in real use: start it by ./bluffside serve. The demo needs one of its own.")
    row.use = use
    row.save()
    forget()
