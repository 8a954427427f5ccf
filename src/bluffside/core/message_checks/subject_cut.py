"""A subject that a phone cuts. Common practice: a list of mails on a phone shows some 40 letters of it; said here from 60 on, when what is
cut is likely to matter."""

from collections.abc import Iterator

from bluffside.core.channel_kinds.email import EmailMessage
from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.letters.inline import MERGE
from bluffside.core.message_checks.base import MessageFault
from bluffside.core.terms import Purpose

SHOWN, SAID_FROM, A_NAME = 40, 60, "Margaret"  # letters; and what stands for a merge field, as long as they often are


def CHECK(wording: Wording, name: str, purpose: Purpose) -> Iterator[MessageFault]:  # noqa: N802  # the folder's name for it
    if not isinstance(wording, EmailMessage):
        return
    for subject in filter(None, (wording.subject, *(other.heading for other in wording.others))):
        length = len(MERGE.sub(A_NAME, subject))
        if length >= SAID_FROM:
            sentence = f"A subject of “{name}” has {length} letters; a phone shows about {SHOWN}, then cuts it."
            yield MessageFault("subject-cut", sentence)
