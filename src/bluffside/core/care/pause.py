"""A human pause before a message, so that it does not feel mechanical.

It varies from message to message, yet is the same for the same key, so that a rehearsal and life agree and
a message that is looked at twice waits once. The key is hashed (SHA-256); its first eight bytes place the
pause evenly between the shortest and the longest.
"""

from datetime import timedelta
from hashlib import sha256
from typing import Self

from pydantic import Field, model_validator

from bluffside.core.document_part import DocumentPart


def share_of(*key: object) -> float:
    """A number in [0, 1), evenly spread over keys, the same for the same key."""
    digest = sha256("\x1f".join(map(str, key)).encode()).digest()
    return int.from_bytes(digest[:8], "big") / 2**64


class HumanPause(DocumentPart):
    """Between `shortest` and `longest` seconds, whole ones."""

    shortest: int = Field(default=0, ge=0, le=3_600)
    longest: int = Field(default=0, ge=0, le=3_600)

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.shortest > self.longest:
            raise ValueError("the shortest pause is longer than the longest")
        return self

    def for_key(self, *key: object) -> timedelta:
        if not self.longest:
            return timedelta()
        return timedelta(seconds=self.shortest + int(share_of(*key) * (self.longest - self.shortest + 1)))
