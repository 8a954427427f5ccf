"""Files that go with an email. Common practice: mails with attachments are held back by filters and opened less; a link does as well."""

from collections.abc import Iterator

from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.message_checks.base import MessageFault
from bluffside.core.terms import Purpose

HEAVY = 2 * 1024 * 1024  # bytes in all


def CHECK(wording: Wording, name: str, purpose: Purpose) -> Iterator[MessageFault]:  # noqa: N802
    if not wording.files:
        return
    size = sum(one.size for one in wording.files)
    what = "a file" if len(wording.files) == 1 else f"{len(wording.files)} files"
    if size > HEAVY:
        yield MessageFault(
            "attached-heavy",
            f"“{name}” carries {size / 1024 / 1024:.1f} MB: many programs refuse or hold back such mail.",
        )
    elif purpose == "marketing":
        yield MessageFault(
            "attached", f"“{name}” carries {what}: filters hold such marketing back more often. A link does as well."
        )
