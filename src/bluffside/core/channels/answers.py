"""Telling answers apart by their words.

An answer is compared in plain form (lower case, no punctuation). An opt-out word is "out" before
anything else. Otherwise the lane with the word that stands earliest in the answer wins, longer words
first; an answer none of the words fits is "other". Words match whole: "yes" is not found in "yesterday".
"""

from collections.abc import Mapping
from typing import Literal

from bluffside.core.channels.keywords import is_opt_out, plain

Answer = Literal["yes", "out", "other", "none"]

USUAL_WORDS: dict[Answer, tuple[str, ...]] = {
    "yes": ("yes", "yeah", "yep", "y", "keen"),
    "out": ("no", "nope", "not interested", "stop"),
    "other": (),
    "none": (),
}


def tell(text: str, words: Mapping[Answer, tuple[str, ...]]) -> tuple[Answer, str]:
    """Which answer a reply is, and the word that decided (empty for "other")."""
    if is_opt_out(text):
        return "out", plain(text)
    said = f" {plain(text)} "
    best: tuple[int, int, Answer, str] | None = None
    for answer, candidates in words.items():
        for word in map(plain, candidates):
            at = said.find(f" {word} ") if word else -1
            if at >= 0 and (best is None or (at, -len(word)) < best[:2]):
                best = (at, -len(word), answer, word)
    return (best[2], best[3]) if best else ("other", "")
