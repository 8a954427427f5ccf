"""What a step answers when it is reached, when its time has come, or when something reaches it."""

from dataclasses import dataclass
from datetime import datetime
from typing import NamedTuple


@dataclass(frozen=True, slots=True)
class On:
    """To the next line; out of a lane, to the line below where the lanes close."""


@dataclass(frozen=True, slots=True)
class Into:
    """Into one of the step's own lanes, by the lane's id."""

    lane: str


@dataclass(frozen=True, slots=True)
class Over:
    """Leaving out what follows, up to the next line of the same run that waits for a time, or to the run's end."""


class Stay(NamedTuple):
    """Here until an instant; `listens` when a reply is for this step."""

    until: datetime
    listens: bool = False


@dataclass(frozen=True, slots=True)
class Leave:
    """Out of the workflow, and why."""

    why: str


Move = On | Into | Over | Stay | Leave
ON = On()
OVER = Over()
