"""HTML that somebody pasted, made fit for a mail: its styles stand in its elements (css-inline), nothing of it can be run or asked for on
opening it (nh3), and its merge fields are found in its words and in where its links lead, nowhere else."""

import re
from collections.abc import Iterator
from functools import lru_cache
from html import unescape

import css_inline
import nh3

from bluffside.core.letters.inline import MERGE
from bluffside.core.letters.plain import link

_INLINER = css_inline.CSSInliner(load_remote_stylesheets=False, keep_style_tags=False, keep_link_tags=False)
_TAGS = {
    "a", "b", "blockquote", "br", "center", "code", "div", "em", "font", "h1", "h2", "h3", "h4", "h5", "h6", "hr", "i", "img", "li", "ol",
    "p", "pre", "s", "small", "span", "strike", "strong", "sub", "sup", "table", "tbody", "td", "tfoot", "th", "thead", "tr", "u", "ul",
}  # fmt: skip
_EVERYWHERE = {"align", "bgcolor", "dir", "height", "lang", "style", "title", "valign", "width"}
_ATTRIBUTES = {
    "*": _EVERYWHERE,
    "a": {"href"},
    "img": {"src", "alt", "border"},
    "table": {"border", "cellpadding", "cellspacing", "role"},
    "td": {"colspan", "rowspan"},
    "th": {"colspan", "rowspan", "scope"},
    "font": {"color", "face", "size"},
    "ol": {"start", "type"},
}
_WITH_CONTENT = {
    "script",
    "style",
    "title",
    "noscript",
    "template",
    "iframe",
    "object",
    "svg",
    "math",
    "textarea",
    "select",
}
_PLACE = re.compile(r"xmerge(\d+)x")
# In a style: what asks for something elsewhere, hides what it says, or reads like neither.
_UNSAFE_STYLE = re.compile(r"url\s*\(|expression|@|\\|<|position\s*:|behavior", re.IGNORECASE)
_VALUE = r'((?:\{\{[^{}]*\}\}|[^"{]|\{(?!\{))*)"'  # of an attribute; a merge field in it may hold quotation marks
_LINK = re.compile(r'(\shref=")' + _VALUE)
_ANCHOR = re.compile(r'<a\b[^>]*?\shref="' + _VALUE + r"[^>]*>(.*?)</a>", re.DOTALL)
_IMAGE = re.compile(r'<img\b(?:[^>]*?\salt="' + _VALUE + ")?[^>]*>")


def _kept(tag: str, name: str, value: str) -> str | None:
    if name == "style" and _UNSAFE_STYLE.search(value):
        parts = (one.strip() for one in value.split(";"))
        value = "; ".join(one for one in parts if one and not _UNSAFE_STYLE.search(one))
    if _PLACE.search(value) and name not in ("href", "alt"):
        return None
    return value or None


def _relative(address: str) -> str | None:
    """An address that begins with a merge field; any other that is not whole leads nowhere from a mail."""
    return address if _PLACE.match(address) else None


@lru_cache(maxsize=500)
def safe(html: str) -> str:
    """What can be shown of it in a mail, with merge fields as they are written. It is HTML that is well formed; no element of it is left open."""
    fields: list[str] = []

    def hold(found: re.Match[str]) -> str:
        fields.append(unescape(found[0]))
        return f"xmerge{len(fields) - 1}x"

    held = MERGE.sub(hold, _PLACE.sub("", html.replace("\0", "")))
    try:
        styled = _INLINER.inline(held)
    except (
        css_inline.InlineError,
        ValueError,
    ):  # styles that cannot be read stay out, and the rest is read without them
        styled = held
    cleaned = nh3.clean(
        styled,
        tags=_TAGS,
        clean_content_tags=_WITH_CONTENT,
        attributes={tag: names | _EVERYWHERE for tag, names in _ATTRIBUTES.items()},
        attribute_filter=_kept,
        url_schemes={"http", "https", "mailto", "tel"},
        url_relative=_relative,
        link_rel=None,
    )
    return _PLACE.sub(lambda found: fields[int(found[1])] if int(found[1]) < len(fields) else "", cleaned).strip()


def for_words(made: str) -> str:
    """What `safe` made, as plain words are laid out from it: behind a link where it leads, for a picture its words."""
    shown = _IMAGE.sub(lambda found: f"({found[1]})" if found[1] else "", made)
    return _ANCHOR.sub(lambda found: link(found[2], unescape(found[1])), shown)


def cut(made: str) -> Iterator[tuple[str, str]]:
    """What `safe` made, in pieces in their order: ("html", as it stands), ("link", where one leads), ("merge", a field as it is written)."""
    at = 0
    for leads in _LINK.finditer(made):
        yield from _words(made[at : leads.start()])
        yield "html", leads[1]
        yield "link", unescape(leads[2])
        yield "html", '"'
        at = leads.end()
    yield from _words(made[at:])


def _words(made: str) -> Iterator[tuple[str, str]]:
    at = 0
    for found in MERGE.finditer(made):
        yield "html", made[at : found.start()]
        yield "merge", found[0]
        at = found.end()
    yield "html", made[at:]
