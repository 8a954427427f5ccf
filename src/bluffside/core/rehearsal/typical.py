"""A typical few: of many contacts, those with whom every line is seen that somebody comes to, as few as possible."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

FEW = 6


@dataclass(frozen=True, slots=True)
class Typical:
    """`who` stands for themselves and `alike` others that come to the same lines; `shows` are the lines that the ones
    before them do not come to."""

    who: str
    alike: int
    shows: tuple[str, ...]


def typical(reached: Mapping[str, Iterable[str]], most: int = FEW) -> Sequence[Typical]:
    """`reached`: the lines each one comes to. Chosen one by one, each the one that shows most that is new (the greedy
    choice of set cover); of two, the first."""
    ways = {who: frozenset(lines) for who, lines in reached.items()}
    by_way: dict[frozenset[str], list[str]] = {}
    for who, lines in ways.items():
        by_way.setdefault(lines, []).append(who)
    seen: frozenset[str] = frozenset()
    found: list[Typical] = []
    while by_way and len(found) < most:
        way = max(by_way, key=lambda lines: (len(lines - seen), len(by_way[lines])))
        if found and not way - seen:
            break
        everybody = by_way.pop(way)
        found.append(Typical(everybody[0], len(everybody) - 1, tuple(sorted(way - seen))))
        seen |= way
    return found
