"""What the server says, as seen from now: a moment of another year with its year."""

from datetime import datetime

from bluffside.core import words
from bluffside.server.practice import clock


def moment(instant: datetime, zone: str) -> str:
    return words.moment(instant, zone, clock.now())
