"""A letter in an account's look, as the HTML of a mail: compiled once, filled for each person.

MJML (an open format for mails, compiled by a library) lays it out in the tables that old programs need; what people wrote stands in
slots of it (`sheet`), so it is never read as MJML or HTML. Dark is a form of its own (`prefers-color-scheme`).
"""

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from html import escape

from mjml import mjml2html

from bluffside.core.letters.document import Letter
from bluffside.core.letters.inline import MERGE, URL, leads_somewhere
from bluffside.core.letters.line import LetterLine
from bluffside.core.letters.lines.columns import ColumnsLine
from bluffside.core.letters.lines.pasted import PastedLine
from bluffside.core.letters.sheet import SLOT, Filling, Leads, Look, Merged, Sheet

SERIF = "'Source Serif 4', Georgia, 'Times New Roman', serif"
SANS = "'Source Sans 3', Arial, sans-serif"
# What stands under every letter, filled like merge fields: by these names.
BUSINESS, OWN_PAGE, OWN_WORDS, LEAVE, WEB = (
    f"{{{{below.{name}}}}}" for name in ("business", "page", "words", "leave", "web")
)
PADDED = "\u034f\u2007" * 70  # behind the preview, so that a list of mails shows nothing else of the letter

DARK = """
:root { color-scheme: light dark; }
.picture img { max-width: 100%; }
@media (prefers-color-scheme: dark) {
  .sheet, .sheet > table, .letter { background: #12191c !important; }
  .ink, .ink div, .ink td { color: #e9e5da !important; }
  .ink td, .ink div div, .rule p { border-color: #344046 !important; }
  .head h1, .head h2, .link { color: #9fd0de !important; }
  .soft, .below div { color: #aab5b8 !important; }
  .under, .under > table { background: #1a2327 !important; }
  .picture img { filter: brightness(0.86); }
}
@media print { .masthead, .masthead > table { background: none !important; } .masthead div { color: #000 !important; } }
"""


def _mjml(letter: Letter, sheet: Sheet) -> str:
    look = sheet.look
    preview = f"<mj-preview>{sheet.raw(*_preview(letter.preview, sheet))}</mj-preview>" if letter.preview else ""
    logo = (
        f'<mj-image src="{sheet.attribute(look.logo)}" alt="" height="40px" width="160px" align="left" padding="0 24px 6px" />'
        if look.logo
        else ""
    )
    line = f'<br><span style="font-size:14px;font-weight:400">{sheet.words(look.line)}</span>' if look.line else ""
    head = (
        f'<mj-section css-class="masthead" full-width="full-width" background-color="{look.colour}"><mj-column>{logo}'
        f'<mj-text color="{look.on}" font-size="21px" font-weight="600" line-height="1.25" padding="16px 24px">{sheet.raw(escape(look.name))}{line}</mj-text>'
        "</mj-column></mj-section>"
        '<mj-section css-class="sheet" padding="16px 0 0"><mj-column></mj-column></mj-section>'
    )
    below = (
        f"{sheet.raw(Merged(BUSINESS))}<br>"
        f'<a class="link" href="{sheet.raw(Merged(OWN_PAGE, False))}" style="color:{look.link}">{sheet.raw(Merged(OWN_WORDS, links=False))}</a>'
        f' &#160; <a class="link" href="{sheet.raw(Merged(LEAVE, False))}" style="color:{look.link}">No more emails</a>'
        f' &#160; <a class="link" href="{sheet.raw(Merged(WEB, False))}" style="color:{look.link}">Read on the web</a>'
    )
    return (
        f"<mjml><mj-head><mj-title></mj-title>{preview}<mj-breakpoint width='480px' />"
        '<mj-raw><meta name="color-scheme" content="light dark"><meta name="supported-color-schemes" content="light dark"></mj-raw>'
        f'<mj-attributes><mj-all font-family="{SERIF}" /><mj-text font-size="17px" line-height="1.55" color="#1f2a30" padding="6px 24px" />'
        '<mj-section padding="0" /><mj-column padding="0" /><mj-table font-size="17px" line-height="1.4" color="#1f2a30" padding="6px 24px" />'
        '<mj-image padding="8px 24px" /><mj-button padding="10px 24px" /><mj-divider padding="12px 24px" /></mj-attributes>'
        f"<mj-style>{DARK}</mj-style></mj-head>"
        '<mj-body css-class="letter" width="608px" background-color="#fffefb">'
        f"{'' if sheet.bare else head}"
        f"{''.join(_sections(letter.lines, sheet))}"
        '<mj-section css-class="under" full-width="full-width" background-color="#f1f0ea" padding="14px 0">'
        f'<mj-column><mj-text css-class="below" font-family="{SANS}" font-size="14px" color="#55626a">{below}</mj-text></mj-column></mj-section>'
        "</mj-body></mjml>"
    )


def _is_pasted(letter: Letter) -> bool:
    """Whether it is a mail from elsewhere, which has its own head."""
    return len(letter.lines) == 1 and isinstance(letter.lines[0], PastedLine)


def _preview(words: str, sheet: Sheet) -> Iterator[Filling]:
    at = 0
    for found in MERGE.finditer(words):
        yield escape(words[at : found.start()])
        yield Merged(found[0])
        at = found.end()
    yield escape(words[at:]) + PADDED


def _sections(lines: Sequence[LetterLine], sheet: Sheet) -> Iterator[str]:
    """Lines below each other are of one section; columns are one of their own."""
    together = list[str]()
    for line in lines:
        if not isinstance(line, ColumnsLine):
            together.append(line.mjml(sheet))
            continue
        if together:
            yield _section(f"<mj-column>{''.join(together)}</mj-column>")
            together.clear()
        yield _section(line.mjml(sheet))
    if together:
        yield _section(f"<mj-column>{''.join(together)}</mj-column>")


def _section(columns: str) -> str:
    return f'<mj-section css-class="sheet">{columns}</mj-section>'


@lru_cache(maxsize=500)
def compiled(letter: Letter, look: Look) -> tuple[Filling, ...]:
    """The letter's HTML, cut where it is filled for each person."""
    sheet = Sheet(look, _is_pasted(letter))
    html = mjml2html(_mjml(letter, sheet)).replace("<title></title>", f"<title>{escape(look.name)}</title>")
    found, words = list[Filling](), ""
    for place, piece in enumerate(SLOT.split(html)):
        for filling in sheet.slots[int(piece)] if place % 2 else (piece,):
            if isinstance(filling, str):
                words += filling
            else:
                found += [words, filling]
                words = ""
    return (*found, words)


@dataclass(frozen=True, slots=True)
class Addressed:
    """A letter to one person: what each of its merge fields says, by how it is written."""

    letter: Letter
    values: tuple[tuple[str, str], ...]


def addressed(letter: Letter, render: Callable[[str], str]) -> Addressed:
    return Addressed(letter, tuple((source, render(source)) for source in sources(letter)))


def sources(letter: Letter) -> list[str]:
    """The merge fields of a letter, as they are written, each once."""
    return list(dict.fromkeys(found for text in letter.texts() for found in MERGE.findall(text)))


def filled(letter: Letter, look: Look, values: Mapping[str, str], counted: Mapping[str, str] | None = None) -> str:
    """The HTML for one person. `values`: by merge field as it is written, what it says; `counted`: by address, the link that counts who
    follows it. An address that is none of the web, of mail or of a telephone leads nowhere."""
    links = counted or {}

    def leads(one: Leads) -> str:
        address = "".join(part if isinstance(part, str) else values.get(part.source, "") for part in one.parts).strip()
        return escape(links.get(address, address)) if leads_somewhere(address) else "#"

    def put(one: Filling) -> str:
        if isinstance(one, str):
            return one
        if isinstance(one, Leads):
            return leads(one)
        value = values.get(one.source, "")
        if not one.as_words:
            return escape(value)
        return _linked(value, links, look) if one.links else escape(value).replace("\n", "<br>")

    return "".join(map(put, compiled(letter, look)))


def _linked(value: str, links: Mapping[str, str], look: Look) -> str:
    """A value as words; an address in it leads where it says."""
    if "://" not in value:
        return escape(value).replace("\n", "<br>")
    made, at = "", 0
    for found in URL.finditer(value):
        to = escape(links.get(found[0], found[0]))
        made += f'{escape(value[at : found.start()])}<a class="link" href="{to}" style="color:{look.link}">{escape(found[0])}</a>'
        at = found.end()
    return re.sub("\n", "<br>", made + escape(value[at:]))
