"""What conversations of one batch book: carried out as soon as it is decided, so that whoever is decided about next in the batch sees it.

Whoever was quicker, in another transaction, makes a booking fail: then that time is struck out, and the decision is taken again
by what is free without it, before anything of it is written. The diary itself is the appointments', which stand above."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
from typing import Protocol

from bluffside.core.appointments.free import Free
from bluffside.core.engine.booking_effects import BookAppointment
from bluffside.core.engine.effects import Effect
from bluffside.core.facts import Facts
from bluffside.server.events.stream import Cause
from bluffside.server.practice.models import Account


class NotBooked(ValueError):
    """It cannot be booked (any more); in words."""


class Diary(Protocol):
    def free(self, account: Account, kind: str, now: datetime) -> Sequence[Free]:
        """What can be booked of a type, the soonest first; nothing of one that is not there."""

    def book(self, account: Account, contact_id: int, effect: BookAppointment, cause: Cause) -> int:
        """Books, or moves, in the transaction at hand; answers the number of the appointment. Raises NotBooked, and then nothing is
        written."""


_diary: list[Diary] = []


def book_by(diary: Diary) -> None:
    """Called when apps are ready."""
    _diary.append(diary)


class Bookings:
    def __init__(self, account: Account) -> None:
        self.account = account
        self._free: dict[str, Sequence[Free]] = {}
        self._gone: set[tuple[str, datetime]] = set()

    def known_to(self, facts: Facts) -> Facts:
        """The facts of somebody, with what is free."""
        return replace(facts, account=replace(facts.account, free=self.free))

    def free(self, kind: str, now: datetime) -> Sequence[Free]:
        if kind not in self._free:
            self._free[kind] = _diary[-1].free(self.account, kind, now)
        return [each for each in self._free[kind] if (kind, each.start) not in self._gone]

    def carried_out(self, contact_id: int, effects: Sequence[Effect], cause: Cause) -> list[Effect]:
        """The effects, with the id of what was booked. Raises NotBooked, and strikes out the time, when it has gone meanwhile."""
        return [self._book(contact_id, one, cause) if isinstance(one, BookAppointment) else one for one in effects]

    def _book(self, contact_id: int, effect: BookAppointment, cause: Cause) -> Effect:
        self._free.pop(effect.type, None)
        try:
            return replace(effect, appointment=str(_diary[-1].book(self.account, contact_id, effect, cause)))
        except NotBooked:
            self._gone.add((effect.type, effect.start))
            raise
