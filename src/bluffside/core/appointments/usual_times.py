"""Times to be booked where nothing is known of a diary, as in a scenario: on the hour, while the business is open; else from 9 to
17 on weekdays."""

from collections.abc import Sequence
from datetime import datetime, timedelta

from bluffside.core.appointments.free import Around, Free, Holder, free
from bluffside.core.appointments.offer import Offer
from bluffside.core.care.house import Care
from bluffside.core.care.quiet import Opening, OpeningHours
from bluffside.core.timing.local import to_local
from bluffside.core.timing.weekdays import WEEKDAYS

USUAL = Offer(every=60, ahead_days=30, members=(1,))
WEEK = OpeningHours(days={day: (Opening(),) for day in WEEKDAYS[:5]})


def usual_times(care: Care, zone: str, now: datetime) -> Sequence[Free]:
    whoever = Holder(1, None if any(care.opening.days.values()) else WEEK)
    today = to_local(now, zone).date()
    return free(USUAL, Around([whoever], [], [], care, zone), now, today, today + timedelta(days=USUAL.ahead_days))
