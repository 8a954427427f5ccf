"""A share of so many, and how sure it is."""

from dataclasses import dataclass
from math import sqrt
from statistics import NormalDist


@dataclass(frozen=True, slots=True)
class Share:
    """`low` and `high` hold the true share in `sure` of a hundred cases."""

    count: int
    of: int
    low: float
    high: float

    @property
    def value(self) -> float:
        return self.count / self.of if self.of else 0.0


def share(count: int, of: int, sure: float = 95) -> Share:
    """With Wilson's score interval (E. B. Wilson, Journal of the American Statistical Association 22, 1927). Of none: from 0 to 1."""
    if not of:
        return Share(0, 0, 0.0, 1.0)
    z = NormalDist().inv_cdf(0.5 + sure / 200)
    p, square = count / of, z * z / of
    middle, half = (p + square / 2) / (1 + square), z * sqrt(p * (1 - p) / of + square / (4 * of)) / (1 + square)
    return Share(count, of, max(0.0, middle - half), min(1.0, middle + half))
