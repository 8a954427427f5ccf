"""Shouting: a subject or title in capitals, or with several exclamation marks. Common practice: filters and people take both for
advertising nobody asked for."""

import re
from collections.abc import Iterator

from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.letters.inline import MERGE
from bluffside.core.message_checks.base import MessageFault
from bluffside.core.terms import Purpose

LETTERS, SHARE = 8, 0.7  # from so many letters on, so many of them capitals
MARKS = re.compile(r"!(\s*!)+")


def shouts(text: str) -> bool:
    letters = [one for one in MERGE.sub("", text) if one.isalpha() and one.lower() != one.upper()]
    return len(letters) >= LETTERS and sum(one.isupper() for one in letters) / len(letters) > SHARE


def calmer(text: str) -> str:
    """The same in small letters after the first, and with one mark; merge fields as they are."""
    said, at = "", 0
    for found in (*MERGE.finditer(text), None):
        piece = text[at : found.start()] if found else text[at:]
        said += (piece.lower() if shouts(text) else piece) + (found[0] if found else "")
        at = found.end() if found else at
    said = MARKS.sub("!", said)
    return said[:1].upper() + said[1:] if shouts(text) else said


def CHECK(wording: Wording, name: str, purpose: Purpose) -> Iterator[MessageFault]:  # noqa: N802
    for field in ("subject", "title"):
        text = str(getattr(wording, field, ""))
        if shouts(text) or MARKS.search(text):
            better = calmer(text)
            yield MessageFault(
                "shouting", f"The {field} of “{name}” shouts: “{text}”.", f"Say “{better}”", field, better
            )
