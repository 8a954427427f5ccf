"""What is being compiled: MJML in which everything somebody wrote is a slot, so that none of it is read as markup; what stands in the
slots is put in, escaped, when the HTML is there."""

import re
from dataclasses import dataclass, field
from html import escape

from bluffside.core.letters.inline import MERGE, OWN_PICTURE, URL, pieces
from bluffside.core.letters.pasted import cut, safe

SLOT = re.compile(r"xslot(\d+)x")


@dataclass(frozen=True, slots=True)
class Look:
    """An account's look: colours as #rrggbb; `line` stands below the name; `logo` is an address, or empty. `home`: the address of
    this installation, before those of pictures that were brought in."""

    name: str
    line: str = ""
    colour: str = "#1d4e5f"
    on: str = "#ffffff"
    link: str = "#1d4e5f"
    logo: str = ""
    home: str = ""


@dataclass(frozen=True, slots=True)
class Merged:
    """A merge field, as it is written; its value stands as words, or as a part of an attribute."""

    source: str
    as_words: bool = True
    links: bool = True  # an address in its value leads there; not within a link


@dataclass(frozen=True, slots=True)
class Leads:
    """An address that a link leads to: words and merge fields of it."""

    parts: tuple[str | Merged, ...]


Filling = str | Merged | Leads


@dataclass(slots=True)
class Sheet:
    """`bare`: a mail from elsewhere alone, which goes from edge to edge."""

    look: Look
    bare: bool = False
    slots: list[tuple[Filling, ...]] = field(default_factory=list)

    def _slot(self, *fillings: Filling) -> str:
        self.slots.append(fillings)
        return f"xslot{len(self.slots) - 1}x"

    def words(self, text: str, links: bool = True) -> str:
        """Words with emphasis, links and merge fields. Without `links`, for what is a link itself."""
        made = list[Filling]()
        for piece in pieces(text):
            tags = [tag for tag, on in (("strong", piece.bold), ("em", piece.italic)) if on]
            link = piece.link if links else ""
            made += (
                ['<a class="link" href="', Leads(_parts(link)), f'" style="color:{self.look.link}">'] if link else []
            )
            made.append("".join(f"<{tag}>" for tag in tags))
            if piece.merge:
                made.append(Merged(piece.text, links=links and not link))
            elif link or not links:
                made.append(_escaped(piece.text))
            else:
                made += self._with_addresses(piece.text)
            made.append("".join(f"</{tag}>" for tag in reversed(tags)) + ("</a>" if link else ""))
        return self._slot(*made)

    def _with_addresses(self, text: str) -> list[Filling]:
        """Words in which an address that is written out leads where it says."""
        made, at = list[Filling](), 0
        for found in URL.finditer(text):
            made += [_escaped(text[at : found.start()]), '<a class="link" href="', Leads((found[0],))]
            made.append(f'" style="color:{self.look.link}">{_escaped(found[0])}</a>')
            at = found.end()
        return [*made, _escaped(text[at:])]

    def attribute(self, text: str) -> str:
        """The value of an attribute, merge fields in it."""
        return self._slot(*(part if isinstance(part, Merged) else escape(part) for part in _parts(text)))

    def picture(self, address: str) -> str:
        """The value of an attribute that is the address of a picture."""
        return self.attribute(self.look.home + address if OWN_PICTURE.fullmatch(address) else address)

    def leads(self, address: str) -> str:
        """The value of an attribute that is an address."""
        return self._slot(Leads(_parts(address)))

    def pasted(self, html: str) -> str:
        """HTML that was pasted, made safe; its links are counted as others are, its merge fields filled."""
        made: list[Filling] = []
        for sort, text in cut(safe(html)):
            made.append(
                Leads(_parts(text)) if sort == "link" else Merged(text, links=False) if sort == "merge" else text
            )
        return self._slot(*made)

    def raw(self, *fillings: Filling) -> str:
        return self._slot(*fillings)


def _escaped(text: str) -> str:
    return escape(text).replace("\n", "<br>")


def _parts(text: str) -> tuple[str | Merged, ...]:
    parts, at = list[str | Merged](), 0
    for found in MERGE.finditer(text):
        parts += [text[at : found.start()], Merged(found[0], as_words=False)]
        at = found.end()
    return tuple(part for part in (*parts, text[at:]) if part)
