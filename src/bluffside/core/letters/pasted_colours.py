"""The colours of words in pasted HTML, and of what they stand on, read from its inlined styles and old attributes; and which are hard to tell
apart (WCAG 2.2, 1.4.3)."""

import re
from dataclasses import dataclass
from functools import lru_cache
from html.parser import HTMLParser
from typing import NamedTuple

from PIL import ImageColor

from bluffside.core.contrast import contrast
from bluffside.core.letters.pasted import safe

NEEDED, NEEDED_LARGE = 4.5, 3.0
LARGE = 24.0  # pixels: 18 points, from which words count as large (WCAG 2.2, definition of large scale)
_EMPTY = {"br", "hr", "img"}
_SIZE = re.compile(r"([\d.]+)(px|pt)")


class Faint(NamedTuple):
    """Words whose `ink` on its `ground` (#rrggbb each) has too little `contrast`."""

    words: str
    ink: str
    ground: str
    contrast: float


@dataclass(frozen=True, slots=True)
class _Around:
    tag: str = ""
    ink: str = "#1f2a30"  # as letters are set, where nothing else is said
    ground: str = "#fffefb"
    large: bool = False


class _Reader(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.open = [_Around()]
        self.found: Faint | None = None

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag in _EMPTY:
            return
        given = {name: value or "" for name, value in attrs}
        style = {
            name.strip().lower(): value.strip()
            for name, colon, value in (one.partition(":") for one in given.get("style", "").split(";"))
            if colon
        }
        around = self.open[-1]
        behind = style.get("background-color") or style.get("background") or given.get("bgcolor", "")
        size = _SIZE.match(style.get("font-size", ""))
        large = around.large if size is None else float(size[1]) * (4 / 3 if size[2] == "pt" else 1) >= LARGE
        ink = colour(style.get("color", "") or given.get("color", "")) or around.ink
        self.open.append(_Around(tag, ink, colour(behind) or around.ground, large))

    def handle_endtag(self, tag: str) -> None:
        if any(one.tag == tag for one in self.open):
            while self.open.pop().tag != tag:
                pass

    def handle_data(self, data: str) -> None:
        now = self.open[-1]
        if self.found is None and (words := " ".join(data.split())):
            is_so = contrast(now.ink, now.ground)
            if is_so < (NEEDED_LARGE if now.large else NEEDED):
                self.found = Faint(words, now.ink, now.ground, is_so)


def colour(css: str) -> str:
    """A colour of CSS as #rrggbb; empty where it is none that is known, or lets something through."""
    try:
        read = ImageColor.getrgb(css.replace("!important", "").strip())
    except ValueError:
        return ""
    return "#{:02x}{:02x}{:02x}".format(*read[:3]) if len(read) == 3 or read[3] == 255 else ""


@lru_cache(maxsize=200)
def faint(html: str) -> Faint | None:
    """The first words of pasted HTML that are hard to read."""
    reader = _Reader()
    reader.feed(safe(html))
    reader.close()
    return reader.found
