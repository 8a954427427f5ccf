"""Words within a line: **bold**, *italic*, [links](https://example.com) and merge fields. Emphasis and links are written as in CommonMark
(https://spec.commonmark.org, 6.2 to 6.6 and 2.4), read by a library of that standard; nothing else of it means anything here, and no HTML."""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache

from markdown_it import MarkdownIt
from markdown_it.token import Token

MERGE = re.compile(r"\{\{[^{}]*\}\}")
URL = re.compile(r"https?://[^\s<>\"'{}]+[^\s<>\"'{}.,;:!?)]")
ADDRESS = re.compile(r"(https?://|mailto:|tel:)", re.IGNORECASE)
OWN_PICTURE = re.compile(r"/b/[\w-]{10,60}")  # one that was brought in, as the account's pictures are addressed
_HELD = "\ue000{}\ue001"  # stands for a merge field while emphasis and links are read: nobody types it
_READ = re.compile("\ue000(\\d+)\ue001")


@dataclass(frozen=True, slots=True)
class Piece:
    """A run of words of one look; or a merge field, as it is written. `link`: where it leads, merge fields in it as they are written."""

    text: str
    merge: bool = False
    bold: bool = False
    italic: bool = False
    link: str = ""


class _Reader(MarkdownIt):
    """Emphasis, links and escapes alone; a link that leads nowhere stays as it is written."""

    def __init__(self) -> None:
        super().__init__("zero")
        self.enable(["emphasis", "link", "escape", "entity", "newline"])

    def validateLink(self, url: str) -> bool:
        return leads_somewhere(_READ.sub("https://x", url))

    def normalizeLink(self, url: str) -> str:
        return url


def leads_somewhere(address: str) -> bool:
    """Whether an address is one of the web, of mail or of a telephone; a merge field at its beginning will be one."""
    return bool(ADDRESS.match(address)) or bool(MERGE.match(address))


def shows_a_picture(address: str) -> bool:
    """Whether it is the address of a picture that was brought in, or of one somewhere in the web."""
    return bool(OWN_PICTURE.fullmatch(address)) or leads_somewhere(address)


_READER = _Reader()


@lru_cache(maxsize=5_000)
def pieces(words: str) -> tuple[Piece, ...]:
    """The words cut into pieces, in their order."""
    merges: list[str] = []

    def hold(found: re.Match[str]) -> str:
        merges.append(found[0])
        return _HELD.format(len(merges) - 1)

    def written(text: str) -> str:
        return _READ.sub(lambda found: merges[int(found[1])], text)

    held = MERGE.sub(hold, words.replace("\ue000", "").replace("\ue001", ""))
    inline = _READER.parseInline(held)[0].children or []
    return tuple(_cut(inline, written))


def _cut(tokens: list[Token], written: Callable[[str], str]) -> Iterator[Piece]:
    bold = italic = 0
    link = ""
    for token in tokens:
        match token.type:
            case "strong_open" | "strong_close":
                bold += token.nesting
            case "em_open" | "em_close":
                italic += token.nesting
            case "link_open":
                link = written(str(token.attrGet("href") or ""))
            case "link_close":
                link = ""
            case "softbreak" | "hardbreak":
                yield Piece("\n", False, bold > 0, italic > 0, link)
            case _:
                for text in re.split("(\ue000\\d+\ue001)", token.content):
                    if text:
                        yield Piece(written(text), text != written(text), bold > 0, italic > 0, link)
