"""What an account shares among all who are inside of its workflows: the speed of its senders, and whose turn it is in the
team."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from bluffside.core.care.pace import Bucket, Pace
from bluffside.core.engine.effects import Assignee, Effect, MakeTask, Notify, SendMessage, SetOwner


class Shared:
    def __init__(self, paces: Mapping[str, Pace]) -> None:
        self.paces = paces
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

    def resolved(self, effect: Effect) -> Effect:
        """Who is next in turn is named."""
        if not isinstance(effect, MakeTask | Notify | SetOwner) or effect.assignee.to != "in_turn":
            return effect
        team = effect.assignee.members
        self._rotations[team] += 1
        chosen = team[(self._rotations[team] - 1) % len(team)] if team else ""
        return replace(effect, assignee=Assignee("member", (chosen,)))
