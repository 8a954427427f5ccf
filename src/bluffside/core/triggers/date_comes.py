"""Date comes round: a date, or a date in a field, once or each year, at a time of day where the contact is."""

from datetime import date, datetime, time
from typing import Literal

from bluffside.core.document_part import part, words_for
from bluffside.core.events import Event
from bluffside.core.facts import Contact
from bluffside.core.timing.clock_times import ClockTime, Day
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.timing.yearly import LEAP_DAYS, LEAP_WORDS, LeapDay, in_year, leap_words
from bluffside.core.triggers.base import Trigger


class DateComes(Trigger):
    """With a `field`, the date of each contact; else `date`. `feb_29` says when a 29 February is kept in other years."""

    label = "when a date comes round"
    sentence = "on {field} {date}, {often}, at {at} {feb_29}"
    listens_to = ("date.came",)
    subject_field = "field"

    kind: Literal["date_comes"] = "date_comes"
    field: str = part("field", "field with a date", empty="", default="", max_length=80)
    date: Day | None = part("date", "date", only={"field": ("",)}, default=None)
    often: Literal["once", "each_year"] = part("choice", "once or each year", default="each_year")
    at: ClockTime = part("time", "time of day", default=time(9))
    feb_29: LeapDay = part(
        "choice",
        "29 February in other years",
        words=LEAP_WORDS,
        only=LEAP_DAYS | {"often": ("each_year",)},
        default="feb_28",
    )

    def said(self) -> str:
        fixed = words_for(self.date) if self.often == "once" else self.date and f"{self.date.day} {self.date:%B}"
        yearly = leap_words(self.date, self.feb_29) if self.often == "each_year" else ""
        said = f"on {self.field or fixed or '…'}, {self.often.replace('_', ' ')}, at {self.at:%H:%M}"
        return f"{said} {yearly}".rstrip()

    def fits(self, event: Event) -> bool:
        if not super().fits(event):
            return False
        return bool(self.field) or event.data.get("date") == (self.date.isoformat() if self.date else None)

    def next_after(self, contact: Contact, instant: datetime, zone: str) -> datetime | None:
        """The next time it comes round for somebody, after an instant; None when it never does again."""
        day = contact.fields.get(self.field) if self.field else self.date
        if not isinstance(day, date):
            return None
        if self.often == "once":
            at = at_time(day, self.at, zone)
            return at if at > instant else None
        for year in range(to_local(instant, zone).year, to_local(instant, zone).year + 10):
            kept = in_year(day, year, self.feb_29)
            if kept and at_time(kept, self.at, zone) > instant:
                return at_time(kept, self.at, zone)
        return None

    def event(self, at: datetime) -> Event:
        data = {"field": self.field} | ({} if self.field or not self.date else {"date": self.date.isoformat()})
        return Event("date.came", at, data)

    def own_fault(self) -> str:
        return "" if self.field or self.date else "It starts on a date, and neither a field nor a date is named yet."
