"""Links in emails that say where a visit came from, for the web analytics of the site they lead to: its source, medium and campaign, under the
names by which such programs commonly read them (common practice; no standard says so)."""

from collections.abc import Callable
from typing import NamedTuple
from urllib.parse import parse_qsl, quote, urlsplit, urlunsplit

NAMES = ("utm_source", "utm_medium", "utm_campaign")
LONGEST = 2_000  # letters of an address: a longer one stays as it is


class LinkTags(NamedTuple):
    """What is added; what is empty is left out."""

    source: str = ""
    medium: str = ""
    campaign: str = ""

    def rendered(self, render: Callable[[str], str]) -> "LinkTags":
        return LinkTags(*(" ".join(render(text).split()) if text else "" for text in self))


def tagged(address: str, tags: LinkTags) -> str:
    """The address with its tags; one that has any already, or is none of the web, stays as it is."""
    if not any(tags):
        return address
    try:
        parts = urlsplit(address)
    except ValueError:
        return address
    named = {name.lower() for name, _ in parse_qsl(parts.query, keep_blank_values=True)}
    if parts.scheme.lower() not in ("http", "https") or named.intersection(NAMES):
        return address
    added = "&".join(f"{name}={quote(value, safe='')}" for name, value in zip(NAMES, tags, strict=True) if value)
    made = urlunsplit(parts._replace(query=f"{parts.query}&{added}" if parts.query else added))
    return made if len(made) <= LONGEST else address
