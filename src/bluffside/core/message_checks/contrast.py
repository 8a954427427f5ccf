"""Words in pasted HTML that can hardly be told from what they stand on: below 4.5 to 1 (WCAG 2.2, 1.4.3, level AA; 3 to 1 for large words)."""

from collections.abc import Iterator

from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.letters.lines.pasted import PastedLine
from bluffside.core.letters.pasted_colours import faint
from bluffside.core.message_checks.base import MessageFault
from bluffside.core.terms import Purpose


def CHECK(wording: Wording, name: str, purpose: Purpose) -> Iterator[MessageFault]:  # noqa: N802
    for letter in wording.letters():
        for line in letter.every_line():
            found = faint(line.html_as_pasted) if isinstance(line, PastedLine) else None
            if found:
                said = f"“{found.words[:40]}” of “{name}” is {found.ink} on {found.ground}, {found.contrast:.1f} to 1: hard to read."
                yield MessageFault("contrast", said)
