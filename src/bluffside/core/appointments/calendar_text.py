"""Appointments as iCalendar (RFC 5545): an entry that is sent to whoever booked (RFC 5546: REQUEST, CANCEL), a calendar to follow
(PUBLISH), and what somebody's mail program answers (REPLY); and, of any calendar, when its owner is busy.

Instants are written in UTC, so that no reader needs a table of zones.
"""

from collections.abc import Iterator, Sequence
from datetime import UTC, date, datetime, time, timedelta
from typing import Literal, NamedTuple

import recurring_ical_events
from icalendar import Calendar, Event, vCalAddress, vText

from bluffside.core.appointments.free import Span
from bluffside.core.timing.local import at_time

PRODUCT = "-//Bluffside//Appointments//EN"
MOST_BUSY = 5_000  # spans that are read off one calendar
Answer = Literal["accepted", "declined", "tentative"]


class Party(NamedTuple):
    name: str
    address: str


class Entry(NamedTuple):
    """`uid` and `sequence` say which entry this is and which is its newest state (RFC 5545, 3.8.4.7 and 3.8.7.4); `more`: when the
    later dates of a course begin; `stamp`: when this was written."""

    uid: str
    sequence: int
    start: datetime
    end: datetime
    title: str
    where: str
    about: str
    page: str
    state: Literal["CONFIRMED", "TENTATIVE", "CANCELLED"]
    stamp: datetime
    more: Sequence[datetime] = ()


class Reply(NamedTuple):
    """What the mail program of somebody who was sent an entry answers to it."""

    uid: str
    sequence: int
    attendee: str
    answer: Answer


class NotACalendar(ValueError):
    """In words."""


def invitation(entry: Entry, organizer: Party, attendee: Party) -> str:
    """The entry as it is sent to whoever booked it: to put it in, to move it, or (CANCELLED) to take it out."""
    event = _event(entry)
    event.add("organizer", _address(organizer))
    guest = _address(attendee)
    if entry.state != "CANCELLED":
        guest.params["PARTSTAT"] = vText("ACCEPTED" if entry.state == "CONFIRMED" else "NEEDS-ACTION")
        guest.params["RSVP"] = vText("TRUE")
    event.add("attendee", guest)
    return _written([event], method="CANCEL" if entry.state == "CANCELLED" else "REQUEST")


def calendar(name: str, entries: Sequence[Entry], method: str = "PUBLISH") -> str:
    """A calendar to follow, or to put in once."""
    return _written([_event(one) for one in entries], method, name)


def _event(entry: Entry) -> Event:
    event = Event()
    event.add("uid", entry.uid)
    event.add("dtstamp", entry.stamp.astimezone(UTC))
    event.add("dtstart", entry.start.astimezone(UTC))
    event.add("dtend", entry.end.astimezone(UTC))
    for one in entry.more:
        event.add("rdate", one.astimezone(UTC))
    event.add("sequence", entry.sequence)
    event.add("status", entry.state)
    event.add("summary", entry.title)
    for name, words in (("location", entry.where), ("description", entry.about), ("url", entry.page)):
        if words:
            event.add(name, words)
    return event


def _address(party: Party) -> vCalAddress:
    address = vCalAddress(f"mailto:{party.address}")
    address.params["CN"] = vText(party.name.replace('"', "'"))
    return address


def _written(events: Sequence[Event], method: str, name: str = "") -> str:
    whole = Calendar()
    whole.add("version", "2.0")
    whole.add("prodid", PRODUCT)
    whole.add("method", method)
    if name:
        whole.add("name", name)  # RFC 7986, 5.1
    for event in events:
        whole.add_component(event)
    return str(whole.to_ical().decode())


# ---- reading


def read_reply(text: str) -> Reply | None:
    """The answer that a mail program sends back (RFC 5546, 3.2.3); None when it is none."""
    try:
        whole = _read(text)
        event = next(iter(whole.walk("VEVENT")), None)
        if str(whole.get("method", "")).upper() != "REPLY" or event is None:
            return None
        attendee = event.get("attendee")
        attendee = attendee[0] if isinstance(attendee, list) else attendee
        said = str(attendee.params.get("PARTSTAT", "")).lower()
        if said not in ("accepted", "declined", "tentative"):
            return None
        address = str(attendee).lower().removeprefix("mailto:")
        return Reply(str(event.get("uid", "")), int(event.get("sequence", 0)), address, said)  # type: ignore[arg-type]
    except (NotACalendar, ValueError, TypeError, AttributeError, KeyError):
        return None


def busy_times(text: str, zone: str, first: datetime, last: datetime) -> list[Span]:
    """When the owner of a calendar is busy between two instants: its entries, those that recur among them (RFC 5545, 3.8.5), but for
    those that are cancelled or leave the time free (TRANSP). Times without a zone are read in the account's. Raises NotACalendar."""
    whole = _read(text)
    try:
        events = recurring_ical_events.of(whole, skip_bad_series=True).between(first, last)
        spans = sorted(span for one in events[:MOST_BUSY] for span in _busy(one, zone))
    except Exception as error:  # noqa: BLE001  # a calendar of anybody's: whatever its reader stumbles on is said of it
        raise NotACalendar(f"it cannot be read: {type(error).__name__}") from None
    return [span for span in spans if span.start < span.end]


def _busy(event: Event, zone: str) -> Iterator[Span]:
    if str(event.get("transp", "")).upper() == "TRANSPARENT" or str(event.get("status", "")).upper() == "CANCELLED":
        return
    yield Span(_instant(event.start, zone), _instant(event.end, zone))


def _instant(at: date | datetime, zone: str) -> datetime:
    if not isinstance(at, datetime):
        return at_time(at, time(), zone)
    return at.astimezone(UTC) if at.tzinfo else at_time(at.date(), at.time(), zone)


def _read(text: str) -> Calendar:
    try:
        whole = Calendar.from_ical(text)
    except Exception as error:  # see busy_times
        raise NotACalendar("it is no calendar (iCalendar, .ics)") from error
    if not isinstance(whole, Calendar):
        raise NotACalendar("it is no calendar (iCalendar, .ics)")
    return whole


def day_span(first: date, last: date, zone: str) -> Span:
    """The whole of some days of an account."""
    return Span(at_time(first, time(), zone), at_time(last + timedelta(days=1), time(), zone))
