"""Speed per sender: a token bucket.

A bucket holds at most `burst` tokens and gains `each_minute` of them a minute; a message takes one, and
waits for it when there is none. In the time T no more than burst + T · each_minute messages go out.
Kept as one instant: when the bucket would have been full, so that it needs no ticking.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta

from pydantic import Field

from bluffside.core.document_part import DocumentPart


class Pace(DocumentPart):
    each_minute: float = Field(default=60, gt=0, le=1_000_000)
    burst: int = Field(default=1, ge=1, le=1_000_000)

    @property
    def gap(self) -> timedelta:
        """How long one token takes to come."""
        return timedelta(minutes=1 / self.each_minute)


@dataclass(frozen=True, slots=True)
class Bucket:
    """`full_at`: the instant at which the bucket is, or was, full; None when it has never been used."""

    full_at: datetime | None = None

    def take(self, pace: Pace, now: datetime) -> tuple["Bucket", datetime]:
        """Takes a token for a message wanted now: the bucket after it, and the instant the message may go."""
        full_at = max(self.full_at or now, now)
        missing = full_at - now  # how long until full, were nothing taken
        goes = now + max(timedelta(), missing - (pace.burst - 1) * pace.gap)
        return Bucket(full_at + pace.gap), goes
