"""A score that fades, in closed form.

Points that fade with half-life h are worth p · 2^(-t/h) after t. Points of one rule share its half-life,
and exponentials of one half-life add up to one: so a rule's whole past is one number and one instant, and
the score at any instant is a short sum, whatever has happened and in however many steps time went by.

    value(t) = Σ over rules of  points · 2^(-(t - as_of) / half_life)

A rule's limit is on what it may stand at: points above it are not kept.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from bluffside.core.events import Event

SECOND = timedelta(seconds=1)
SPENT = 1_000  # halvings, after which nothing is left


@dataclass(frozen=True, slots=True)
class Earned:
    """What one rule has brought: `points` as of an instant, halving every `half_life` (None: they stay). `score`: which of the
    account's they count for; "" is the lead score."""

    rule: str
    points: float
    as_of: datetime
    half_life: timedelta | None = None
    score: str = ""

    def at(self, instant: datetime) -> float:
        """Its worth at an instant. Before `as_of` it is what it will be then: points never come from the future."""
        if self.half_life is None or instant <= self.as_of:
            return self.points
        halved = (instant - self.as_of) / self.half_life
        return float(self.points * 2.0**-halved) if halved < SPENT else 0.0


@dataclass(frozen=True, slots=True)
class Score:
    """One contact's scores: the lead score, which has no name, and the account's further ones; at most one `Earned` a rule and score."""

    earned: tuple[Earned, ...] = ()

    def of(self, score: str) -> tuple[Earned, ...]:
        return tuple(one for one in self.earned if one.score == score)

    def at(self, instant: datetime, score: str = "") -> float:
        return sum(one.at(instant) for one in self.earned if one.score == score)

    def make_up(self, instant: datetime, score: str = "") -> list[tuple[str, float]]:
        """What each rule brings at an instant, the most first; they add up to `at`."""
        return sorted(
            ((one.rule, one.at(instant)) for one in self.of(score)), key=lambda part: (-abs(part[1]), part[0])
        )

    def plus(
        self,
        rule: str,
        points: float,
        at: datetime,
        half_life: timedelta | None = None,
        limit: float | None = None,
        score: str = "",
    ) -> "Score":
        """The score with points added for a rule; `limit` (positive) is the most, up or down, the rule may stand at."""
        held = next((one for one in self.of(score) if one.rule == rule), None)
        moment = max(at, held.as_of) if held else at
        total = (held.at(moment) if held else 0.0) + points
        if limit is not None:
            total = max(-limit, min(limit, total))
        changed = Earned(rule, total, moment, half_life, score)
        return Score((*(one for one in self.earned if one is not held), changed))

    def crosses(self, mark: float, after: datetime, score: str = "") -> datetime | None:
        """The first whole second at which fading alone has taken a score down to a mark; None when it never does. The same
        from wherever one looks, so that it can be told whether it has come already."""
        if self.at(after, score) <= mark:
            return None
        low, high = after.replace(microsecond=0), after.replace(microsecond=0) + timedelta(days=36_500)
        if any(one.points < 0 and one.half_life for one in self.of(score)):
            # With negative points that fade, too, the sum need not fall steadily: the day is looked for first.
            days = _midnights(after, min(high, low + timedelta(days=3_650)))
            below = next(((day, next_) for day, next_ in days if self.at(next_, score) <= mark), None)
            if below is None:
                return None
            low, high = max(low, below[0]), below[1]
        elif self.at(high, score) > mark:
            return None
        while high - low > SECOND:
            middle = low + (high - low) // SECOND // 2 * SECOND
            low, high = (middle, high) if self.at(middle, score) > mark else (low, middle)
        return high


def _midnights(after: datetime, last: datetime) -> Iterator[tuple[datetime, datetime]]:
    """Days of UTC, each with the next."""
    day = after.astimezone(UTC).replace(hour=0, minute=0, second=0, microsecond=0)
    while day <= last:
        yield day, day + timedelta(days=1)
        day += timedelta(days=1)


def called(score: str) -> str:
    """A score in a sentence: the lead score has no name of its own."""
    return score or "score"


def changed_event(score: str, old: float, new: float, at: datetime) -> Event:
    return Event("score.changed", at, {"old": old, "new": new} | ({"score": score} if score else {}))


def changes(before: Score, after: Score, at: datetime) -> list[Event]:
    """What became of each score that is another now, the lead score first."""
    names = sorted({one.score for one in (*before.earned, *after.earned)})
    points = ((name, before.at(at, name), after.at(at, name)) for name in names)
    return [changed_event(name, old, new, at) for name, old, new in points if old != new]
