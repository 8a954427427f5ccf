"""One request to an address on the web, and where it is sent on to: each looked at by the guard, over by a deadline, and no more read
of the answer than is asked for. It asks no database, so that any thread may make it."""

import time
from collections.abc import Callable, Sequence
from typing import NamedTuple
from urllib.parse import SplitResult, urljoin, urlsplit

import httpcore

from bluffside.server.hooks.guard import PORTS, STAND_IN_PATHS, Guard, NotAllowed, stand_ins

PATIENCE = 15.0  # seconds to connect, and between two parts of an answer
DEADLINE = 20.0  # seconds for all of a request, its redirects and its answer
MOST_REDIRECTS = 3
Headers = Callable[[SplitResult, str], list[tuple[str, str]]]


class Answer(NamedTuple):
    """`content`: the beginning of it, in bytes."""

    status: int
    content: bytes


def follow(method: str, url: str, body: str, headers: Headers, allowed: Sequence[str], most: int) -> Answer:
    """The answer, after redirects. `headers` says what goes along to an address with a body. Raises NotAllowed, and what httpcore
    raises."""
    guard = Guard(allowed, time.monotonic() + DEADLINE)
    with httpcore.ConnectionPool(network_backend=guard, retries=0) as pool:
        for _ in range(MOST_REDIRECTS + 1):
            address = urlsplit(url)
            if address.scheme not in PORTS or not address.hostname:
                raise NotAllowed(f"{url[:200]} is not an address on the web")
            if address.hostname in stand_ins() and not address.path.startswith(STAND_IN_PATHS):
                raise NotAllowed(f"the stand-in serves no {address.path[:100] or '/'}")
            with pool.stream(
                method,
                url,
                headers=headers(address, body),
                content=body.encode(),
                extensions={"timeout": {"connect": PATIENCE, "read": PATIENCE, "write": PATIENCE, "pool": PATIENCE}},
            ) as answer:
                where = next((value for name, value in answer.headers if name.lower() == b"location"), b"").decode(
                    "latin-1"
                )
                if answer.status not in (301, 302, 303, 307, 308) or not where:
                    return Answer(answer.status, _beginning(answer, most))
            url = urljoin(url, where)
            if answer.status in (301, 302, 303) and method != "GET":
                method, body = "GET", ""  # as browsers do (RFC 9110, 15.4.2 to 15.4.4)
    raise NotAllowed(f"it was sent on more than {MOST_REDIRECTS} times")


def _beginning(answer: httpcore.Response, most: int) -> bytes:
    kept = b""
    for part in answer.iter_stream():
        kept += part
        if len(kept) > most:
            break
    return kept[:most]
