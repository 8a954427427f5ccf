"""Score: points on the lead score, or another of the account's, up or down, fading or not (see scoring.sheet)."""

from collections.abc import Iterator
from datetime import timedelta
from typing import Literal

from bluffside.core.conditions import Need
from bluffside.core.engine.effects import AddPoints
from bluffside.core.engine.turn import Turn
from bluffside.core.scoring.sheet import called
from bluffside.core.steps.base import Fault, Mend, OneAct, part
from bluffside.core.timing.durations import Duration


class ChangeScore(OneAct):
    """`rule` names what the points are for; they count under it, up to its `limit`."""

    label = "Score"
    finds = ("score", "points")
    sentence = "Adds {points} points for {rule} to the {score}, halving every {half_life}."

    kind: Literal["score"] = "score"
    points: float = part("count", "points", default=10, ge=-10_000, le=10_000)
    rule: str = part("line", "what for", default="this workflow", max_length=120)
    half_life: Duration | None = part("duration", "half-life", empty="never", default=None)
    limit: float | None = part("count", "up to", empty="no limit", default=None, gt=0)
    score: str = part("score", "which score", empty="score", default="", max_length=40)

    def describe(self) -> str:
        said = f"{'Adds' if self.points >= 0 else 'Takes off'} {abs(self.points):g} points for {self.rule}"
        to = f" to {called(self.score)}" if self.score else ""
        fading = f", halving every {self.half_life}" if self.half_life else ""
        return f"{said}{to}{fading}{f', up to {self.limit:g}' if self.limit else ''}."

    def act(self, turn: Turn) -> None:
        before = turn.facts.contact.score.at(turn.now, self.score)
        half_life = _length(self.half_life)
        turn.do(AddPoints(*turn.key, self.rule, self.points, half_life, self.limit, self.score))
        after = turn.facts.contact.score.at(turn.now, self.score)
        points = f"{before:.0f}", f"{after:.0f}", f"{self.points:+g}"
        turn.because("{} from {} to {}: {} for {}.", self.score or "Score", *points, self.rule)

    def needs(self) -> frozenset[Need]:
        return frozenset({"score"})

    def brings(self) -> Iterator[tuple[str, str]]:
        yield "score.changed", self.score

    def faults(self) -> Iterator[Fault]:
        if not self.points:
            yield Fault("no-points", "warning", "It adds no points.", Mend("Remove the line", "remove"))
        if self.half_life and not self.half_life.amount:
            yield Fault("no-half-life", "error", "Points that halve at once are never there.")


def _length(half_life: Duration | None) -> timedelta | None:
    """As an exact length of time; a month is 365 / 12 days here."""
    if half_life is None:
        return None
    return half_life.amount * timedelta(days=365) / 12 if half_life.unit == "month" else half_life.length
