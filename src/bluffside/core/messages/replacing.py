"""Words found and others put in their place in what messages say: in either case, a capital kept, merge fields and addresses left alone."""

import re
from collections.abc import Iterator, Mapping
from typing import Any

from bluffside.core.letters.inline import MERGE

# The fields of wordings and of letters that hold words people read.
SAID = {"subject", "title", "heading", "body", "preview", "words", "who", "items"}
NEAR = 60  # letters around what is found, shown with it


def replaced(text: str, swaps: Mapping[str, str]) -> str:
    """The text with other words wherever it says some, all at once, so that what was put in is not replaced again; of two that fit the longer
    counts. What begins with a capital is replaced with one."""
    by_words = {find.casefold(): by for find, by in swaps.items() if find}
    if not by_words:
        return text
    pattern = re.compile("|".join(map(re.escape, sorted(filter(None, swaps), key=len, reverse=True))), re.IGNORECASE)

    def put(found: re.Match[str]) -> str:
        by = by_words.get(found[0].casefold(), found[0])
        capital = found[0][:1] != found[0][:1].lower()
        return by[:1].upper() + by[1:] if capital else by

    made, at = "", 0
    for field in MERGE.finditer(text):
        made += pattern.sub(put, text[at : field.start()]) + field[0]
        at = field.end()
    return made + pattern.sub(put, text[at:])


def with_replaced(data: Any, swaps: Mapping[str, str], key: str = "") -> Any:
    """A message as plain data, with other words in what it says."""
    match data:
        case str():
            return replaced(data, swaps) if key in SAID else data
        case dict():
            return {name: with_replaced(value, swaps, name) for name, value in data.items()}
        case list():
            return [with_replaced(value, swaps, key) for value in data]
    return data


def changes(before: Any, after: Any) -> Iterator[tuple[str, str]]:
    """Of two of one shape, the texts that are others: each before and after."""
    if isinstance(before, str) and before != after:
        yield before, after
    elif isinstance(before, Mapping):
        for name, value in before.items():
            if not (name == "body" and before.get("letter")):  # it is made of the letter's lines
                yield from changes(value, after[name])
    elif isinstance(before, list):
        for one, other in zip(before, after, strict=True):
            yield from changes(one, other)
