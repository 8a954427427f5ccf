"""What open deals will bring, by month: worth times likelihood, and how sure that is.

A deal is won with the likelihood of the stage it stands in. Where that was set by hand it is taken as it is; where it was counted,
each draw counts a history drawn anew from the one there was (a bootstrap: B. Efron, Annals of Statistics 7, 1979), so that a stage of
which little is known makes the range wide. Then each deal is won or not. Deals are drawn apart from each other: one bad season for
all is not in it.
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

DRAWS = 2_000
AT_ONCE = 2_000_000  # numbers held
SURE = 80


class OpenDeal(NamedTuple):
    """`month`: "" for no date."""

    month: str
    stage: str
    worth: float


class Likelihood(NamedTuple):
    """Set by hand, or counted: `won` of so many `closed`."""

    set: float | None = None
    won: int = 0
    closed: int = 0

    @property
    def value(self) -> float | None:
        return self.set if self.set is not None else self.won / self.closed if self.closed else None


class Worth(NamedTuple):
    """`likely`: worth times likelihood; in `SURE` of a hundred draws it was from `low` to `high`. `open`: if all were won; `deals`: how
    many."""

    deals: int
    open: float
    likely: float
    low: float
    high: float


def worth_to_come(
    deals: Sequence[OpenDeal], likelihood: Mapping[str, Likelihood], draws: int = DRAWS, seed: int = 1
) -> dict[str, Worth]:
    """By month, and "all" for all of them. Deals in stages of which nothing is known are left out. The same seed draws the same."""
    known = [one for one in deals if likelihood.get(one.stage, Likelihood()).value is not None]
    if not known:
        return {}
    random = np.random.default_rng(seed)
    stages = sorted({one.stage for one in known})
    chances = np.column_stack([_drawn(likelihood[stage], draws, random) for stage in stages])
    place = {stage: number for number, stage in enumerate(stages)}
    found, total = {}, np.zeros(draws)
    for month in sorted({one.month for one in known}):
        some = [one for one in known if one.month == month]
        brings = np.zeros(draws)
        size = max(1, AT_ONCE // draws)
        for start in range(0, len(some), size):
            part = some[start : start + size]
            worth = np.array([one.worth for one in part])
            chance = chances[:, [place[one.stage] for one in part]]
            brings += (random.random(chance.shape) < chance) @ worth
        total += brings
        found[month] = _worth(some, brings, likelihood)
    return found | {"all": _worth(known, total, likelihood)}


def _drawn(one: Likelihood, draws: int, random: np.random.Generator) -> "np.ndarray[tuple[int], np.dtype[np.float64]]":
    if one.set is not None:
        return np.full(draws, one.set)
    return random.binomial(one.closed, one.won / one.closed, draws) / one.closed


def _worth(
    some: Sequence[OpenDeal],
    brings: "np.ndarray[tuple[int], np.dtype[np.float64]]",
    likelihood: Mapping[str, Likelihood],
) -> Worth:
    low, high = np.percentile(brings, [50 - SURE / 2, 50 + SURE / 2])
    likely = sum(one.worth * (likelihood[one.stage].value or 0) for one in some)
    return Worth(len(some), sum(one.worth for one in some), likely, float(low), float(high))
