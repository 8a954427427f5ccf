"""The next messages from one: a list whose first line says which of its words are others each time, and each further line by what. Cells are
parted by tabs, as a spreadsheet pastes them, or by semicolons."""

import csv
from collections.abc import Mapping, Sequence
from typing import Any

from bluffside.core.messages.replacing import changes, replaced, with_replaced

MOST_NEXT, MOST_CELLS = 60, 12


class BadList(ValueError):
    """In words, with the number of the line."""


def swaps_of(text: str) -> list[dict[str, str]]:
    """For each next message what is said instead of what. Raises BadList."""
    lines = [line for line in text.replace("\0", "").splitlines() if line.strip()]
    if len(lines) < 2:
        raise BadList("The first line says which words change, each further line what is said instead.")
    between = "\t" if any("\t" in line for line in lines) else ";"
    rows = [[cell.strip() for cell in row] for row in csv.reader(lines, delimiter=between)]
    found, *others = rows
    if not all(found) or len({one.casefold() for one in found}) < len(found):
        raise BadList("Line 1: each word or phrase that changes stands there once.")
    if len(found) > MOST_CELLS or len(others) > MOST_NEXT:
        raise BadList(f"At most {MOST_NEXT} messages, and {MOST_CELLS} words that change.")
    for number, row in enumerate(others, start=2):
        if len(row) != len(found) or not all(row):
            raise BadList(f"Line {number}: it has {len(list(filter(None, row)))} of {len(found)} cells.")
    return [dict(zip(found, row, strict=True)) for row in others]


def next_name(name: str, swaps: Mapping[str, str]) -> str:
    """What the next one is called: the same with the words swapped; where none of them is in it, with the first behind it."""
    swapped = replaced(name, swaps)
    return swapped if swapped != name else f"{name}, {next(iter(swaps.values()))}"


def next_one(message: Mapping[str, Any], swaps: Mapping[str, str]) -> tuple[Any, Sequence[tuple[str, str]], list[str]]:
    """A message as plain data with its words swapped; its texts before and after; which of the words it does not say."""
    made = with_replaced(dict(message), swaps)
    texts = list(changes(dict(message), made))
    silent = [find for find in swaps if not any(find.casefold() in before.casefold() for before, _ in texts)]
    return made, texts, silent
