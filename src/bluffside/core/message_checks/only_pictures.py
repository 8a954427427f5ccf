"""A letter that is only pictures: who has them off, or cannot see them, reads nothing, and filters take it for advertising."""

from collections.abc import Iterator

from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.letters.lines.picture import PictureLine
from bluffside.core.letters.lines.rule import RuleLine
from bluffside.core.message_checks.base import MessageFault
from bluffside.core.terms import Purpose


def CHECK(wording: Wording, name: str, purpose: Purpose) -> Iterator[MessageFault]:  # noqa: N802
    for letter in wording.letters():
        said = [line for line in letter.every_line() if not isinstance(line, RuleLine)]
        shows = any(isinstance(line, PictureLine) for line in said)
        if not shows or not all(isinstance(line, PictureLine) or line.is_empty for line in said):
            continue
        yield MessageFault("only-pictures", f"“{name}” is only pictures: with pictures off, nothing can be read.")
