"""How long until something ends, in which of several ways, counting what has not ended yet.

Deals are won and deals are lost, and a deal that is lost is never won: the two compete. What is open still says something: that it has
not ended until today. The Aalen–Johansen estimator (O. O. Aalen, S. Johansen, Scandinavian Journal of Statistics 5, 1978) takes both
into account; one minus Kaplan–Meier of one way alone would promise too much. With one way only it is one minus Kaplan–Meier.

The variance is that of E. Marubini and M. G. Valsecchi (Analysing Survival Data from Clinical Trials, 1995, ch. 10), as written in the
documentation of `lifelines`, against which tests hold both.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby
from math import sqrt
from statistics import NormalDist


@dataclass(frozen=True, slots=True)
class Reached:
    """How many of a hundred have ended in one way until then, as a share with its interval."""

    value: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Moment:
    """`at`: so long after the beginning, in the unit of the durations; `at_risk`: how many had not ended, and were watched, until then."""

    at: float
    at_risk: int
    open: float
    ways: Mapping[str, Reached]


def ways_to_end(lengths: Iterable[tuple[float, str]], ways: Sequence[str], sure: float = 95) -> list[Moment]:
    """The moments at which something ended, in their order. `lengths`: how long each took, and how it ended; "" while it has not."""
    z = NormalDist().inv_cdf(0.5 + sure / 200)
    known = sorted(lengths)
    at_risk, survival = len(known), 1.0
    reached = dict.fromkeys(ways, 0.0)
    steps: list[tuple[float, int, float, dict[str, int], dict[str, float]]] = []
    found = []
    for at, some in groupby(known, key=lambda one: one[0]):
        ended = [way for _, way in some]
        counts = {way: ended.count(way) for way in ways}
        if any(counts.values()):
            for way in ways:
                reached[way] += survival * counts[way] / at_risk
            steps.append((at, at_risk, survival, counts, dict(reached)))
            survival *= 1 - sum(counts.values()) / at_risk
            found.append(Moment(at, at_risk, survival, {way: _with_interval(steps, way, z) for way in ways}))
        at_risk -= len(ended)
    return found


def _with_interval(
    steps: Sequence[tuple[float, int, float, dict[str, int], dict[str, float]]], way: str, z: float
) -> Reached:
    now, variance = steps[-1][4][way], 0.0
    for _, n, before, counts, reached in steps:
        d, all_, apart = counts[way], sum(counts.values()), now - reached[way]
        if n > all_:
            variance += apart**2 * all_ / (n * (n - all_))
        variance += before**2 * d * (n - d) / n**3 - 2 * apart * before * d / n**2
    half = z * sqrt(max(0.0, variance))
    return Reached(now, max(0.0, now - half), min(1.0, now + half))


def reached_by(moments: Sequence[Moment], at: float) -> Moment | None:
    """How things stand then; None before the first has ended."""
    found = None
    for one in moments:
        if one.at > at:
            break
        found = one
    return found
