"""What takes long to count is not counted anew for every page that looks at it each second.

Counting gets at most a tenth of the time: what took half a second is answered again for five. What is quick is always
counted anew, so that it is never old. Each process keeps its own, and forgets it when it ends.
"""

from collections.abc import Callable, Hashable
from threading import Lock
from time import monotonic
from typing import Any, TypeVar

T = TypeVar("T")
QUICK = 0.15  # seconds
SHARE = 10
MOST = 500
_known: dict[Hashable, tuple[float, Any]] = {}
_lock = Lock()


def lately(key: Hashable, count: Callable[[], T]) -> T:
    """What `count` answers, or answered lately for the same key. The key names the account: nobody sees another's."""
    with _lock:
        known = _known.get(key)
    began = monotonic()
    if known and began < known[0]:
        answer: T = known[1]
        return answer
    found = count()
    spent = monotonic() - began
    with _lock:
        _known.pop(key, None)
        if spent > QUICK:
            if len(_known) >= MOST:
                _known.clear()
            _known[key] = (began + spent * (1 + SHARE), found)
    return found


def forget(key: Hashable) -> None:
    """What was counted for a key is counted anew: somebody has just changed it."""
    with _lock:
        _known.pop(key, None)
