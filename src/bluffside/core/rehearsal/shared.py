"""What an account shares among all who are inside of its workflows: the speed of its senders, and whose turn it is in the
team, and what is free in its diary."""

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from bluffside.core.appointments.free import Free
from bluffside.core.care.pace import Bucket, Pace
from bluffside.core.engine.booking_effects import BookAppointment
from bluffside.core.engine.effects import Assignee, ChangeAppointment, Effect, MakeTask, Notify, SendMessage, SetOwner
from bluffside.core.facts import Account


class Shared:
    def __init__(self, account: Account) -> None:
        self.account, self.paces = account, account.care.pace
        self._booked: dict[tuple[str, str], tuple[str, datetime]] = {}  # by contact and appointment
        self._rotations: dict[tuple[str, ...], int] = defaultdict(int)
        self._buckets: dict[tuple[str, str], Bucket] = {}

    def goes(self, effects: Sequence[Effect], at: datetime) -> dict[int, datetime]:
        """When each message leaves, by its place among the effects, where its sender has a speed."""
        goes = dict[int, datetime]()
        for index, effect in enumerate(effects if self.paces else ()):
            if isinstance(effect, SendMessage) and not effect.held:
                pace: Pace | None = self.paces.get(effect.sender) or self.paces.get("")
                if pace:
                    sender = effect.channel, effect.sender
                    bucket, goes[index] = self._buckets.get(sender, Bucket()).take(pace, at)
                    self._buckets[sender] = bucket
        return goes

    def free(self, kind: str, now: datetime) -> list[Free]:
        """What the account has free, less what has been booked here."""
        gone = Counter(start for type, start in self._booked.values() if type == kind)
        return [one for one in self.account.free_times(kind, now) if one.left > gone[one.start]]

    def book(self, contact: str, effect: Effect) -> None:
        """Keeps what an effect books, moves or cancels."""
        if isinstance(effect, BookAppointment):
            self._booked[contact, effect.id] = (effect.type, effect.start)
        elif isinstance(effect, ChangeAppointment) and effect.to == "cancelled":
            self._booked.pop((contact, effect.appointment), None)

    def resolved(self, effect: Effect) -> Effect:
        """Who is next in turn is named."""
        if not isinstance(effect, MakeTask | Notify | SetOwner) or effect.assignee.to != "in_turn":
            return effect
        team = effect.assignee.members
        self._rotations[team] += 1
        chosen = team[(self._rotations[team] - 1) % len(team)] if team else ""
        return replace(effect, assignee=Assignee("member", (chosen,)))
