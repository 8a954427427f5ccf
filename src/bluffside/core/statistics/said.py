"""Shares and what two of them have over each other, in words: never a bare rate, and "too few to tell" where the interval tells nothing."""

from dataclasses import dataclass
from typing import Literal

from bluffside.core.statistics.added import added
from bluffside.core.statistics.share import Share

TOO_WIDE = 0.35  # an interval that spans more in a hundred tells nothing; our own bound
TOO_FEW = "too few to tell"
Way = Literal["rose", "fell", "same", "few"]


def tells(one: Share) -> bool:
    return one.of > 0 and one.high - one.low <= TOO_WIDE


def percent(part: float) -> str:
    return f"{round(100 * part)} %"


def said(one: Share) -> str:
    """ "33 % (29 to 37)" """
    if not tells(one):
        return TOO_FEW
    return f"{percent(one.value)} ({round(100 * one.low)} to {round(100 * one.high)})"


def out_of(one: Share, what: str) -> str:
    """ "61 of 412 delivered, 15 % (12 to 19)" """
    return f"{one.count:,} of {one.of:,} {what}, {said(one)}"


@dataclass(frozen=True, slots=True)
class Against:
    """A share against another: by how many in a hundred it is larger, with its interval; `way` is "same" within chance."""

    way: Way
    value: float = 0
    low: float = 0
    high: float = 0

    @property
    def words(self) -> str:
        """ "+11 (2 to 20)"; with a true minus sign."""
        if self.way == "few":
            return TOO_FEW
        value, low, high = (round(100 * part) for part in (self.value, self.low, self.high))
        return f"{_signed(value, plus=True)} ({_signed(low)} to {_signed(high)})"

    @property
    def in_words(self) -> str:
        """ "11 more in 100 (2 to 20)", "no more than chance does"."""
        if self.way in ("few", "same"):
            return TOO_FEW if self.way == "few" else "no more than chance does"
        nearest, furthest = sorted(abs(round(100 * part)) for part in (self.low, self.high))
        return (
            f"{abs(round(100 * self.value))} {'more' if self.value > 0 else 'fewer'} in 100 ({nearest} to {furthest})"
        )


def _signed(number: int, plus: bool = False) -> str:
    return f"−{-number}" if number < 0 else f"+{number}" if plus and number else str(number)


def against(one: Share, other: Share) -> Against:
    known = added(one, other) if tells(one) and tells(other) else None
    if known is None:
        return Against("few")
    way: Way = ("rose" if known.value > 0 else "fell") if known.tells else "same"
    return Against(way, known.value, known.low, known.high)


def marks_by_chance(compared: int, sure: float = 95) -> float:
    """How likely it is that at least one of so many comparisons is marked though nothing has changed in any."""
    return float(1 - (sure / 100) ** compared)
