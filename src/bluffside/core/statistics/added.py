"""What a follow-up added: a share of those who got it less a share of those who, by chance, did not.

Of two shares the difference, with the interval of R. G. Newcombe (Statistics in Medicine 17, 1998, method 10): from Wilson's intervals
of both. For one look, after the time that was set for it; who looks every day needs `compared.py`.
"""

from dataclasses import dataclass
from math import ceil, sqrt
from statistics import NormalDist

from bluffside.core.statistics.share import Share

FEWEST = 10  # people of each: of fewer the interval holds, and tells nothing
MOST_PEOPLE = 10_000_000


@dataclass(frozen=True, slots=True)
class Added:
    """From -1 to 1; `low` and `high` hold the true difference in as many of a hundred cases as both shares say."""

    value: float
    low: float
    high: float

    @property
    def tells(self) -> bool:
        """Whether it is beyond chance."""
        return self.low > 0 or self.high < 0


def added(with_it: Share, without: Share) -> Added | None:
    """None: too few to tell."""
    if min(with_it.of, without.of) < FEWEST:
        return None
    p1, p2 = with_it.value, without.value
    value = p1 - p2
    low = value - sqrt((p1 - with_it.low) ** 2 + (without.high - p2) ** 2)
    high = value + sqrt((with_it.high - p1) ** 2 + (p2 - without.low) ** 2)
    return Added(value, max(-1.0, low), min(1.0, high))


def people_until(half: float, usual: float, part: float, sure: float = 95) -> int | None:
    """How many must come, both sides together, until what is added is known to so much either way, when about `usual` of all reach it
    and `part` of all are held back. By the usual normal approximation. None: more than anybody has."""
    if not 0 < part < 1 or half <= 0:
        return None
    z = NormalDist().inv_cdf(0.5 + sure / 200)
    spread = max(usual * (1 - usual), 0.02)  # so that a rare aim is not taken for a sure one
    people = ceil(z * z * spread * (1 / part + 1 / (1 - part)) / half**2)
    return people if people <= MOST_PEOPLE else None
