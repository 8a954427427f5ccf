"""Where one enrolment stands: one place at a time."""

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True)
class State:
    """All instants are UTC.

    joined   the anchor that "day N" counts from
    place    id of the step it stands at; empty before the first step and once ended
    arrived  when it came to that place
    until    when time moves it on; None once ended
    listens  whether a reply is for the step it stands at
    round    how often the script has been begun; with the step's id it makes the key of what is done once
    ended    why it ended, in words; empty while it runs
    """

    joined: datetime
    place: str = ""
    arrived: datetime | None = None
    until: datetime | None = None
    listens: bool = False
    round: int = 1
    ended: str = ""

    @property
    def running(self) -> bool:
        return not self.ended
