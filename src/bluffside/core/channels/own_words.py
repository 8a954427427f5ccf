"""What somebody wrote themselves, without what hangs on below: quoted mail, signatures, what a phone adds."""

from functools import cache
from typing import cast

from mailparser_reply import EmailReplyParser

LONGEST = 2_000  # of a short answer; what is longer is for a person to read, and its beginning tells enough
LANGUAGES = ["en", "de", "fr", "es", "it", "nl"]  # what a mail program writes above a quotation


@cache
def _parser() -> EmailReplyParser:
    return EmailReplyParser(languages=LANGUAGES)


def without_quotation(text: str) -> str:
    """The text without the mail it answers; the whole where nothing else is in it."""
    return cast(str, _parser().parse_reply(text=text)).strip() or text.strip()


def own_words(text: str) -> str:
    """The beginning of a text without quotation and signature; the whole where nothing else is in it."""
    replies = _parser().read(text=text[:LONGEST]).replies
    said = cast(str, replies[0].body).strip() if replies else ""
    lines = [line for line in said.splitlines() if not line.startswith(">")]
    return "\n".join(lines).strip() or text[:LONGEST].strip()
