"""Addresses on the web (RFC 3986), as people type them."""

from urllib.parse import urlsplit


def host_of(url: str) -> str:
    """The host that an http or https address names, in small letters; empty for what is no such address."""
    try:
        address = urlsplit(url.strip())
        _ = address.port  # one that is out of range names nothing
    except ValueError:
        return ""
    return (address.hostname or "") if address.scheme in ("http", "https") else ""
