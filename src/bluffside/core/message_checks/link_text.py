"""A link that says one address and leads to another: filters take it for a deceit, and people do, too."""

import re
from collections.abc import Iterator
from urllib.parse import urlsplit

from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.letters.inline import URL, pieces
from bluffside.core.message_checks.base import MessageFault
from bluffside.core.terms import Purpose

NAMED = re.compile(r"^(?:https?://)?((?:[\w-]+\.)+[a-z]{2,})(?:[/?#]\S*)?$", re.IGNORECASE)


def _host(address: str) -> str:
    return (urlsplit(address).hostname or "").removeprefix("www.")


def CHECK(wording: Wording, name: str, purpose: Purpose) -> Iterator[MessageFault]:  # noqa: N802
    for text in (text for letter in wording.letters() for text in letter.texts()):
        for piece in pieces(text):
            said = NAMED.match(piece.text.strip()) if piece.link and URL.match(piece.link) else None
            if said and _host(piece.link) != said[1].lower().removeprefix("www."):
                sentence = f"A link of “{name}” says {said[1]} and leads to {_host(piece.link)}."
                yield MessageFault("link-text", sentence)
