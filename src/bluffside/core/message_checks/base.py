"""What a check of a message finds, and what it looks at."""

from collections.abc import Callable, Iterator
from typing import Any, NamedTuple

from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.terms import Purpose


class MessageFault(NamedTuple):
    """Something risky about what a message says. `field` of the wording would be `value` when it is mended, by a sentence in `mend`."""

    code: str
    sentence: str
    mend: str = ""
    field: str = ""
    value: Any = None


# A wording, how it is called, and by which consent it goes.
MessageCheck = Callable[[Wording, str, Purpose], Iterator[MessageFault]]
