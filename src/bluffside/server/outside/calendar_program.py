"""The calendar beside a simulated mailbox: it shows the entries that mails bring, and answers them as mail programs do (RFC 5546, 3.2.3;
RFC 6047)."""

import uuid
from datetime import UTC, datetime
from email.message import EmailMessage
from email.policy import default
from typing import Literal, NamedTuple, cast

from icalendar import Calendar, Event, vCalAddress, vText

from bluffside.core.appointments.calendar_text import PRODUCT
from bluffside.server.messaging.inbound import take_mail
from bluffside.server.outside.models import Item
from bluffside.server.practice import clock

Said = Literal["accepted", "declined"]


class Entry(NamedTuple):
    """`starts`: its dates, those of a course among them; `gone`: it is taken out (CANCEL)."""

    uid: str
    sequence: int
    title: str
    where: str
    starts: list[datetime]
    gone: bool


def entry_of(item: Item) -> Entry | None:
    """The entry that came with a mail; None where none did."""
    if not item.calendar:
        return None
    whole, event = _read(item)
    more = event.get("rdate") or []
    dates = [one.dt for each in (more if isinstance(more, list) else [more]) for one in each.dts]
    return Entry(
        str(event["uid"]), int(event.get("sequence", 0)), str(event.get("summary", "")), str(event.get("location", "")),
        [cast(datetime, one).astimezone(UTC) for one in (event.start, *dates)], str(whole.get("method", "")) == "CANCEL",
    )  # fmt: skip


def _read(item: Item) -> tuple[Calendar, Event]:
    whole = Calendar.from_ical(item.calendar)
    assert isinstance(whole, Calendar)
    return whole, cast(Event, next(iter(whole.walk("VEVENT"))))


def is_newest(item: Item, entry: Entry, others: list[Item]) -> bool:
    """Whether no later mail to this mailbox has changed the entry since: only then it can be answered."""
    known = (entry_of(one) for one in others)
    return all(one.sequence <= entry.sequence for one in known if one and one.uid == entry.uid)


def answer(item: Item, said: Said) -> str:
    """The mail program answers for whose mailbox it is; answers what became of it."""
    _, asked = _read(item)
    event = Event()
    for name in ("uid", "sequence", "dtstart", "organizer"):
        if name in asked:
            event.add(name, asked[name])
    event.add("dtstamp", clock.now().astimezone(UTC))
    guest = vCalAddress(f"mailto:{item.theirs}")
    guest.params["PARTSTAT"] = vText(said.upper())
    event.add("attendee", guest)
    whole = Calendar()
    for name, words in (("version", "2.0"), ("prodid", PRODUCT), ("method", "REPLY")):
        whole.add(name, words)
    whole.add_component(event)
    mail = EmailMessage(policy=default)
    mail["From"], mail["To"], mail["Message-ID"] = item.theirs, item.ours, f"<{uuid.uuid4()}@outside.example>"
    mail["Subject"] = f"{said.capitalize()}: {asked.get('summary', '')}"
    mail.set_content(f"{said.capitalize()}.")
    mail.add_alternative(whole.to_ical().decode(), subtype="calendar", params={"method": "REPLY"})
    return "; ".join(one.did for one in take_mail(mail.as_bytes(), [item.ours]))
