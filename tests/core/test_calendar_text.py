"""iCalendar as others write and read it: what RFC 5545, 5546 and 6047 want, read by a parser that is not the one that wrote it."""

import contextlib
from datetime import UTC, datetime, timedelta
from email import message_from_bytes
from email.policy import default
from typing import Any

import pytest
import vobject
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.appointments.calendar_text import (
    Entry,
    NotACalendar,
    Party,
    Reply,
    busy_times,
    calendar,
    invitation,
    read_reply,
)
from bluffside.core.appointments.free import Span
from bluffside.server.messaging.carrier import Parcel
from bluffside.server.messaging.smtp import compose

AT = datetime(2026, 3, 3, 11, tzinfo=UTC)
ENTRY = Entry(
    "appointment-1-2@bluffside.example", 0, AT, AT + timedelta(hours=1), "Taster sail, Tern Harbour; with lunch",
    "The Old Slip, by the crane", "Move or cancel it: https://bluffside.example/a/1.2.x", "https://bluffside.example/a/1.2.x",
    "CONFIRMED", datetime(2026, 3, 2, 9, tzinfo=UTC),
)  # fmt: skip
HOUSE, ANA = Party("Mel at Tern Harbour", "hello@tern-harbour.example.com"), Party('Ana "Ann" Reyes', "ana@example.com")


def lines(text: str) -> list[str]:
    """Unfolded (RFC 5545, 3.1)."""
    return text.replace("\r\n ", "").split("\r\n")


def test_what_is_sent_has_what_a_request_must_have() -> None:
    """RFC 5546, 3.2.2 (REQUEST) and 3.2.5 (CANCEL)."""
    text = invitation(ENTRY, HOUSE, ANA)
    assert all(len(line.encode()) <= 75 for line in text.split("\r\n"))  # RFC 5545, 3.1
    said = lines(text)
    for line in ("METHOD:REQUEST", "UID:appointment-1-2@bluffside.example", "SEQUENCE:0", "DTSTART:20260303T110000Z",
                 "DTEND:20260303T120000Z", "DTSTAMP:20260302T090000Z", "STATUS:CONFIRMED",
                 "SUMMARY:Taster sail\\, Tern Harbour\\; with lunch"):  # fmt: skip
        assert line in said, line
    assert any(line.startswith("ORGANIZER") and line.endswith("mailto:hello@tern-harbour.example.com") for line in said)
    assert any(
        line.startswith("ATTENDEE") and "RSVP=TRUE" in line and line.endswith("mailto:ana@example.com") for line in said
    )
    gone = lines(invitation(ENTRY._replace(state="CANCELLED", sequence=2), HOUSE, ANA))
    assert {"METHOD:CANCEL", "STATUS:CANCELLED", "SEQUENCE:2", "UID:appointment-1-2@bluffside.example"} <= set(gone)


def test_in_a_mail_it_is_a_part_with_its_method() -> None:
    """RFC 6047, 2.4: text/calendar, with method and charset as parameters; read by the standard library's parser."""
    parcel = Parcel(
        "k", "email", HOUSE.address, HOUSE.name, ANA.address, "You are booked", "You are booked.", "<p>You are booked.</p>",
        "<a@b>", calendar=invitation(ENTRY, HOUSE, ANA),
    )  # fmt: skip
    mail = message_from_bytes(compose(parcel, AT).as_bytes(), policy=default)
    [part] = [one for one in mail.walk() if one.get_content_type() == "text/calendar"]
    assert mail.get_content_type() == "multipart/alternative"
    assert (part.get_param("method"), part.get_content_charset()) == ("REQUEST", "utf-8")
    event = vobject.readOne(part.get_content()).vevent
    assert (event.dtstart.value, event.summary.value) == (AT, ENTRY.title)


words = st.text(st.characters(exclude_categories=["Cs", "Cc"]), min_size=1, max_size=80).filter(
    lambda text: text.strip()
)


@given(
    title=words,
    where=words,
    name=words,
    hours=st.integers(1, 48),
    more=st.lists(st.integers(1, 300), max_size=4, unique=True),
)
def test_another_parser_reads_the_same(title: str, where: str, name: str, hours: int, more: list[int]) -> None:
    later = [AT + timedelta(days=n) for n in sorted(more)]
    entry = ENTRY._replace(title=title, where=where, end=AT + timedelta(hours=hours), more=later)
    event = vobject.readOne(calendar(name, [entry])).vevent
    assert (event.summary.value, event.location.value) == (title, where)
    assert event.dtend.value - event.dtstart.value == timedelta(hours=hours)
    assert [one.value[0] for one in event.contents.get("rdate", [])] == later


REPLY = """BEGIN:VCALENDAR\r
PRODID:-//Some Mail Program//EN\r
METHOD:REPLY\r
VERSION:2.0\r
BEGIN:VEVENT\r
ATTENDEE;PARTSTAT={said}:mailto:Ana@example.com\r
ORGANIZER:mailto:hello@tern-harbour.example.com\r
UID:appointment-1-2@bluffside.example\r
SEQUENCE:1\r
DTSTAMP:20260302T100000Z\r
END:VEVENT\r
END:VCALENDAR\r
"""  # in the shape of RFC 5546, 4.2.2


@pytest.mark.parametrize(
    ("said", "answer"), [("ACCEPTED", "accepted"), ("DECLINED", "declined"), ("TENTATIVE", "tentative")]
)
def test_what_a_mail_program_answers_is_read(said: str, answer: Any) -> None:
    assert read_reply(REPLY.format(said=said)) == Reply(
        "appointment-1-2@bluffside.example", 1, "ana@example.com", answer
    )
    assert read_reply(REPLY.format(said="DELEGATED")) is None
    assert read_reply(REPLY.format(said=said).replace("REPLY", "REQUEST")) is None
    assert read_reply("BEGIN:VCALENDAR") is None and read_reply("") is None


def busy(*lines: str) -> list[Span]:
    text = "\r\n".join(["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:x", *lines, "END:VCALENDAR", ""])
    return busy_times(text, "America/New_York", datetime(1997, 9, 1, tzinfo=UTC), datetime(1998, 1, 31, tzinfo=UTC))


def event(*more: str) -> tuple[str, ...]:
    return ("BEGIN:VEVENT", "UID:1@x", "DTSTAMP:19970901T130000Z", *more, "END:VEVENT")


def days(found: list[Span]) -> list[str]:
    return [f"{one.start:%m-%d %H:%M}" for one in found]


def test_the_examples_of_the_standard_are_read_as_it_says() -> None:
    """RFC 5545, 3.8.5.3: daily for 10 occurrences; every other week on Monday, Wednesday and Friday until 24 December 1997, in which
    the clocks of New York go back on 26 October (EDT is UTC-4, EST UTC-5)."""
    start, hour = "DTSTART;TZID=America/New_York:19970902T090000", "DURATION:PT1H"
    daily = busy(*event(start, hour, "RRULE:FREQ=DAILY;COUNT=10"))
    assert days(daily) == [f"09-{n:02} 13:00" for n in range(2, 12)]
    assert all(one.end - one.start == timedelta(hours=1) for one in daily)
    other = busy(*event("DTSTART;TZID=America/New_York:19970901T090000", hour,
                        "RRULE:FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR"))  # fmt: skip
    assert days(other)[:6] == ["09-01 13:00", "09-03 13:00", "09-05 13:00", "09-15 13:00", "09-17 13:00", "09-19 13:00"]
    assert days(other)[-3:] == ["12-08 14:00", "12-10 14:00", "12-12 14:00"] or days(other)[-1] == "12-22 14:00"
    left_out = busy(*event(start, hour, "RRULE:FREQ=DAILY;COUNT=3", "EXDATE;TZID=America/New_York:19970903T090000"))
    assert days(left_out) == ["09-02 13:00", "09-04 13:00"]


def test_what_leaves_the_time_free_is_not_busy_and_a_day_is_the_whole_of_it() -> None:
    assert busy(*event("DTSTART:19970903T130000Z", "DTEND:19970903T140000Z", "TRANSP:TRANSPARENT")) == []
    assert busy(*event("DTSTART:19970903T130000Z", "DTEND:19970903T140000Z", "STATUS:CANCELLED")) == []
    assert days(busy(*event("DTSTART:19970903T090000", "DTEND:19970903T100000"))) == [
        "09-03 13:00"
    ]  # no zone: the account's
    [day] = busy(*event("DTSTART;VALUE=DATE:19970903"))
    assert (f"{day.start:%d %H:%M}", day.end - day.start) == ("03 04:00", timedelta(days=1))


@pytest.mark.parametrize(
    "text",
    [
        "",
        "not a calendar",
        "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nEND:VCALENDAR",
        "BEGIN:VCARD\r\nVERSION:3.0\r\nN:a\r\nFN:a\r\nEND:VCARD",
    ],
)
def test_what_is_no_calendar_is_said_in_words(text: str) -> None:
    with pytest.raises(NotACalendar, match="calendar|cannot be read"):
        busy_times(text, "UTC", AT, AT + timedelta(days=9))


@given(st.text(max_size=300) | st.binary(max_size=200).map(lambda some: some.decode("latin-1")))
def test_no_text_makes_a_reader_fail(text: str) -> None:
    for whole in (
        text,
        f"BEGIN:VCALENDAR\r\nMETHOD:REPLY\r\nBEGIN:VEVENT\r\n{text}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
    ):
        read_reply(whole)
        with contextlib.suppress(NotACalendar):
            busy_times(whole, "UTC", AT, AT + timedelta(days=9))
