"""A letter as plain words, for the plain part of its mail: simple HTML, laid out in words by a library."""

import re
from html import escape, unescape

from inscriptis import get_text
from inscriptis.css_profiles import STRICT_CSS_PROFILE
from inscriptis.model.config import ParserConfig

from bluffside.core.letters.inline import MERGE, pieces

_CONFIG = ParserConfig(css=STRICT_CSS_PROFILE)


def in_html(words: str) -> str:
    """Words in simple HTML: where a link leads stands behind it, merge fields stay as they are written."""
    made = ""
    for piece in pieces(words):
        text = escape(piece.text).replace("\n", "<br>")
        made += link(text, piece.link) if piece.link else text
    return made


def link(text: str, address: str) -> str:
    """Words, already escaped, and behind them where they lead."""
    if not address or escape(address) == text:
        return text
    return f"{text}: {escape(address)}" if text else escape(address)


def in_words(html: str) -> str:
    """HTML laid out in plain words; no more than one empty line, and none at the ends."""
    held: list[str] = []

    def hold(found: re.Match[str]) -> str:
        held.append(found[0])
        return f"\ue000{len(held) - 1}\ue001"  # what is in a merge field is no text to be laid out

    text = get_text(MERGE.sub(hold, html), _CONFIG)
    lines = "\n".join(line.rstrip() for line in text.split("\n"))
    made = re.sub(r"\n{3,}", "\n\n", lines).strip("\n")
    return re.sub("\ue000(\\d+)\ue001", lambda found: unescape(held[int(found[1])]), made)
