"""Where a request comes from: the visitor's address, and whether another site's page made it."""

from urllib.parse import urlsplit

from django.conf import settings
from django.http import HttpRequest


def address_of(request: HttpRequest) -> str:
    """The visitor's address. Of X-Forwarded-For only what one's own proxies have added counts: whatever stands before it
    anybody can write."""
    hops, said = settings.BLUFFSIDE_PROXIES, request.headers.get("X-Forwarded-For", "").split(",")
    if hops and len(said) >= hops:
        return said[-hops].strip()
    return str(request.META.get("REMOTE_ADDR", ""))


def is_foreign(request: HttpRequest) -> bool:
    """Whether a page of another site made it, by what browsers say of that (Fetch Metadata; RFC 6454, section 7)."""
    if request.headers.get("Sec-Fetch-Site") == "cross-site":
        return True
    origin = request.headers.get("Origin", "")
    if not origin:
        return False
    own = {urlsplit(settings.ADDRESS).netloc, request.get_host()}
    return urlsplit(origin).netloc not in own
