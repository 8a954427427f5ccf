"""Two shares compared: by how much one is larger, and how sure that is, at every look: one may look every day, and stop as soon as it
tells something.

A sequence of intervals that all hold at once in `sure` of a hundred cases, by a mixture of normals (I. Waudby-Smith, D. Arbour,
R. Sinha, E. H. Kennedy, A. Ramdas, Annals of Statistics 52, 2024; formula from memory). It holds for many, so it says nothing before
there are some of each: tests hold it against planted nothings, looked at daily.

For people whom chance has given to one or the other; who chose for themselves differ in more than what is compared.
"""

from collections.abc import Callable
from dataclasses import dataclass
from math import log, sqrt

from bluffside.core.statistics.share import Share

FEWEST = 40  # people of each, and
# Of each, who would reach it and who would not, were both alike: before that nothing is said (by simulation).
EXPECTED = 6
TIGHT_AT = 600  # people; where the sequence is tightest: about what a small business sends in half a year
MOST_PEOPLE = 1_000_000


@dataclass(frozen=True, slots=True)
class Difference:
    """How much larger the second share is, from -1 to 1; `low` and `high` hold the true difference."""

    value: float
    low: float
    high: float

    @property
    def tells(self) -> bool:
        """Whether it is known which is larger."""
        return self.low > 0 or self.high < 0


def so_far(first: Share, second: Share, sure: float = 95) -> Difference | None:
    """None: too few to tell anything."""
    of, reached, fewer = first.of + second.of, first.count + second.count, min(first.of, second.of)
    if fewer < FEWEST or fewer * min(reached, of - reached) < EXPECTED * of:
        return None
    half = _half(_spread(first) + _spread(second), of, 1 - sure / 100)
    value = second.value - first.value
    return Difference(value, max(-1.0, value - half), min(1.0, value + half))


def _spread(one: Share) -> float:
    """The variance of a share; as if one more had reached it and one had not, so that none of few is not taken for certain."""
    guess = (one.count + 1) / (one.of + 2)
    return guess * (1 - guess) / one.of


def _half(variance: float, people: int, wrong: float) -> float:
    tight = (-2 * log(wrong) + log(-2 * log(wrong) + 1)) / TIGHT_AT
    grown = people * tight + 1
    return sqrt(variance * 2 * grown / (people * tight) * log(sqrt(grown) / wrong))


def people_needed(usual: float, apart: float, part: float = 0.5, sure: float = 95) -> int | None:
    """How many people it takes, both sides together, until such a difference shows, when `usual` of the first reach it and `part` of all
    are given to the second. None: more than anybody has."""

    def shows(people: int) -> bool:
        second = usual + apart if usual + apart <= 1 else usual - apart
        sides = ((usual, people * (1 - part)), (second, people * part))
        variance = sum(one * (1 - one) / many for one, many in sides)
        return _half(variance, people, 1 - sure / 100) <= apart

    return _least(shows)


def _least(holds: Callable[[int], bool]) -> int | None:
    low, high = 2 * FEWEST, MOST_PEOPLE
    if not holds(high):
        return None
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if holds(middle) else (middle + 1, high)
    return low


def in_words(first: Share, second: Share, did: str, sure: float = 95) -> str:
    """What is known of the second against the first, looked at as often as one likes; `did`: what was reached ("answered")."""
    known = so_far(first, second, sure)
    if known is None:
        return "too few to tell"
    low, high = round(100 * known.low), round(100 * known.high)
    if known.tells:
        word = "more" if known.value > 0 else "fewer"
        nearest, furthest = sorted((abs(low), abs(high)))
        return f"{abs(round(100 * known.value))} in 100 {word} {did} ({nearest} to {furthest})"
    of = first.of + second.of
    needed = people_needed((first.count + second.count) / of, 0.1, second.of / of, sure)
    takes = f"; a difference of 10 in 100 takes {needed:,} people" if needed else ""
    return f"nobody can tell yet: between {abs(low)} in 100 fewer and {abs(high)} more{takes}"
