"""Figures as they are shown: a rate with what it is of and how sure it is, a difference with its interval, both in words."""

from ninja import Schema

from bluffside.core.statistics.added import Added
from bluffside.core.statistics.said import Against, percent, said, tells
from bluffside.core.statistics.share import Share


class RateOut(Schema):
    """`value`, `low` and `high` are from 0 to 1. `words` are a percentage with its interval; "too few to tell" where `tells` is false, and
    then nothing is drawn. `percent` alone goes where the interval is drawn beside it."""

    count: int
    of: int
    value: float
    low: float
    high: float
    tells: bool
    percent: str
    words: str


def rate(one: Share) -> RateOut:
    return RateOut(
        count=one.count, of=one.of, value=one.value, low=one.low, high=one.high, tells=tells(one),
        percent=percent(one.value) if tells(one) else "", words=said(one),
    )  # fmt: skip


class AgainstOut(Schema):
    """`way` is rose or fell beyond chance, same within it, few where nothing can be told. From -1 to 1."""

    way: str
    value: float
    low: float
    high: float
    words: str


def against_out(one: Against) -> AgainstOut:
    return AgainstOut(way=one.way, value=one.value, low=one.low, high=one.high, words=one.words)


class AddedOut(Schema):
    """In people and money of those written to: the difference times how many there were, and what one is worth on average."""

    value: float
    low: float
    high: float
    tells: bool
    people: int
    people_low: int
    people_high: int
    money: str = ""


def added_out(one: Added, of: int) -> AddedOut:
    return AddedOut(
        value=one.value, low=one.low, high=one.high, tells=one.tells, people=round(one.value * of),
        people_low=round(one.low * of), people_high=round(one.high * of),
    )  # fmt: skip


class ReasonCount(Schema):
    why: str
    count: int


def reasons(why: dict[str, int], most: int = 4) -> list[ReasonCount]:
    """The most frequent first; of the rest, how many there are."""
    known = sorted(why.items(), key=lambda one: (-one[1], one[0]))
    shown = [ReasonCount(why=why, count=count) for why, count in known[:most]]
    rest = sum(count for _, count in known[most:])
    return [*shown, ReasonCount(why="for other reasons", count=rest)] if rest else shown
