"""A letter whose HTML is so large that mail programs clip it, and with it the way out at its end. Common practice: from 102 kB on."""

from collections.abc import Iterator

from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.letters.compiling import filled
from bluffside.core.letters.sheet import Look
from bluffside.core.message_checks.base import MessageFault
from bluffside.core.terms import Purpose

CLIPPED = 102 * 1024  # bytes
WORTH_A_LOOK = 20_000  # letters in all its lines: below it no letter comes near, and laying it out takes time
A_LINE = 400  # of HTML around each line


def CHECK(wording: Wording, name: str, purpose: Purpose) -> Iterator[MessageFault]:  # noqa: N802
    for letter in wording.letters():
        size = sum(map(len, letter.texts())) + A_LINE * sum(1 for _ in letter.every_line())
        if size < WORTH_A_LOOK:
            continue
        size = len(filled(letter, Look(name), {}).encode())
        if size > CLIPPED:
            sentence = f"“{name}” is {size // 1024} kB long: from 102 kB on, some programs clip a mail, and the way out at its end with it."
            yield MessageFault("too-large", sentence)
