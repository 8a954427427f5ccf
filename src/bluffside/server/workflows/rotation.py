"""Whose turn it is where members take turns. Whoever gives out turns of a team holds its row until the batch commits."""

from dataclasses import replace

from bluffside.core.engine.effects import Assignee, Effect, MakeTask, Notify, SetOwner
from bluffside.server.practice.models import Account
from bluffside.server.workflows.models import Rotation


class Rotations:
    """The turns that one batch gives out; they are written down when it ends."""

    def __init__(self, account: Account) -> None:
        self.account = account
        self.given: dict[tuple[str, ...], int] = {}

    def resolved(self, effect: Effect) -> Effect:
        """The effect with the member named whose turn it is; as it is where nobody takes turns."""
        if not isinstance(effect, MakeTask | Notify | SetOwner):
            return effect
        team = effect.assignee.members
        if effect.assignee.to != "in_turn" or not team:
            return effect
        if team not in self.given:
            self.given[team] = self._hold(team)
        chosen = team[self.given[team] % len(team)]
        self.given[team] += 1
        return replace(effect, assignee=Assignee("member", (chosen,)))

    def _hold(self, team: tuple[str, ...]) -> int:
        key = {"account": self.account, "team": _key(team)}
        Rotation.objects.bulk_create([Rotation(**key)], ignore_conflicts=True)
        return Rotation.objects.select_for_update().get(**key).given

    def write(self) -> None:
        for team, given in self.given.items():
            Rotation.objects.filter(account=self.account, team=_key(team)).update(given=given)


def _key(team: tuple[str, ...]) -> str:
    return "\n".join(team)[:2_000]
