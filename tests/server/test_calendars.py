"""Calendars that go out and come in: the entry that is mailed and what comes back to it, addresses that are followed, and calendars in
which members are busy."""

from datetime import timedelta
from email.message import EmailMessage
from typing import Any

import vobject

from bluffside.core.appointments.calendar_text import read_reply
from bluffside.server.appointments import booking, busy, calendars, offering
from bluffside.server.appointments.models import Busy, BusyCalendar
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment, Notice
from bluffside.server.events.models import Event
from bluffside.server.messaging.inbound import take_mail
from bluffside.server.messaging.models import Message, Reply, StrangerMail
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from tests.server.conftest import House
from tests.server.receiving import Receiver, allow
from tests.server.test_booked import states
from tests.server.test_booking import NOW, at, offers, times
from tests.server.visiting import outside

ENGAGED = """BEGIN:VCALENDAR\r
VERSION:2.0\r
PRODID:-//A dentist//EN\r
BEGIN:VEVENT\r
UID:1@dentist.example\r
DTSTAMP:20260301T090000Z\r
DTSTART;TZID=Europe/London:20260303T113000\r
DTEND;TZID=Europe/London:20260303T120000\r
RRULE:FREQ=WEEKLY\r
END:VEVENT\r
END:VCALENDAR\r
"""


def mails() -> list[Message]:
    return list(Message.objects.filter(channel="email", key__startswith="calendar:").order_by("id"))


def event(text: str) -> Any:
    return vobject.readOne(text).vevent


def answer(one: Appointment, said: str, sender: str = "", sequence: int = 0) -> None:
    mail = EmailMessage()
    mail["From"], mail["To"] = sender or one.contact.email, "hello@sailing.example.com"
    mail["Subject"], mail["Message-ID"] = f"{said}: Taster sail", f"<{said}.{sequence}@mail.example>"
    mail.set_content("")
    text = (
        f"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nMETHOD:REPLY\r\nBEGIN:VEVENT\r\nUID:{calendars.uid_of(one)}\r\n"
        f"SEQUENCE:{sequence}\r\nDTSTAMP:20260302T100000Z\r\nATTENDEE;PARTSTAT={said}:mailto:{one.contact.email}\r\n"
        "END:VEVENT\r\nEND:VCALENDAR\r\n"
    )
    assert read_reply(text)
    mail.add_alternative(text, subtype="calendar", params={"method": "REPLY"})
    take_mail(mail.as_bytes(), ["hello@sailing.example.com"])


def test_the_entry_goes_at_once_moves_along_and_is_taken_out_under_one_name(house: House) -> None:
    """RFC 5546, 2.1.4: the same UID, and a SEQUENCE that grows."""
    with clock.at(NOW):
        made = booking.book(offers(house, place="The old slip"), house.contact(), at(11))
        booking.move(made, at(12))
        diary.settle(made, Appointment.State.CANCELLED)
        sent = mails()
        assert [one.subject.split(":")[0] for one in sent] == ["You are booked", "Your new time", "Cancelled"]
        events = [event(one.calendar) for one in sent]
        assert {one.uid.value for one in events} == {calendars.uid_of(made)}
        assert [int(one.sequence.value) for one in events] == [0, 1, 2]
        assert [one.dtstart.value for one in events] == [at(11), at(12), at(12)]
        assert ["METHOD:CANCEL" in one.calendar for one in sent] == [False, False, True]
        assert "/a/" in sent[0].body and "/l/" not in sent[0].body  # its own page is no link to count
        until_quiet()
        assert {one.state for one in mails()} <= {"sent", "delivered"}
        booking.book(offers(house, "Quiet", calendar=False), house.contact(2), at(10))
        assert len(mails()) == 3


def test_a_course_is_one_entry_with_its_dates_whatever_becomes_of_one_of_them(house: House) -> None:
    with clock.at(NOW):
        made = booking.book(offers(house, "Course", dates=3), house.contact(), at(10))
        [first] = mails()
        assert [one.value[0] for one in event(first.calendar).contents["rdate"]] == [at(10, day=10), at(10, day=17)]
        second = diary.dates_of(made)[1]
        diary.settle(second, Appointment.State.CANCELLED, whole=False)
        changed = event(mails()[1].calendar)
        assert [one.value[0] for one in changed.contents["rdate"]] == [at(10, day=17)] and changed.sequence.value == "1"
        diary.settle(made, Appointment.State.CANCELLED)
        assert len(mails()) == 3 and "METHOD:CANCEL" in mails()[2].calendar
        assert set(states()) == {"cancelled"}


def test_what_their_calendar_answers_is_no_reply_and_a_decline_tells_the_team(house: House) -> None:
    with clock.at(NOW):
        made = booking.book(offers(house), house.contact(), at(11))
        answer(made, "ACCEPTED", sender="somebody@example.net")  # sent on to somebody else, who answers
        answer(made, "ACCEPTED", sequence=0)
        made.refresh_from_db()
        assert made.state == "confirmed"
        answer(made, "DECLINED")
        made.refresh_from_db()
        assert made.state == "confirmed"  # nobody has cancelled it: the team settles it
        assert "cannot come: Taster sail" in Notice.objects.get(person=house.member).text
        moved = booking.move(made, at(12))
        answer(moved, "ACCEPTED", sequence=0)  # to the time before
        moved.refresh_from_db()
        assert moved.state == "booked"
        assert not Reply.objects.exists() and not StrangerMail.objects.exists()
        assert not Event.objects.filter(kind="reply.received").exists()


def test_a_followed_calendar_shows_what_stands_to_whoever_has_its_address(
    house: House, api: Any, signed_in: Any
) -> None:
    with clock.at(NOW):
        booking.book(offers(house), house.contact(1), at(11))
        booking.book(offers(house, "Charter", members=[]), house.contact(2), at(10))
        everything = api("POST", "calendars", {"of": "all"})[1]["address"]
        way = "/" + everything.split("/", 3)[3]
        whole = vobject.readOne(outside(way).content.decode())
        assert {one.summary.value for one in whole.vevent_list} == {"Taster sail: P1", "Charter: P2"}
        own = signed_in(house.member).post(
            "/api/accounts/sailing/calendars", {"of": "own"}, content_type="application/json"
        )
        mine = "/" + own.json()["address"].split("/", 3)[3]
        assert len(vobject.readOne(outside(mine).content.decode()).vevent_list) == 1
        assert api("GET", "calendars")[1]["address"] == ""  # it is shown once
        anew = api("POST", "calendars", {"of": "all"})[1]["address"]
        assert outside(way).status_code == 404 and outside("/" + anew.split("/", 3)[3]).status_code == 200
        house.sailing.memberships.all().delete()
        assert outside(mine).status_code == 404
        assert api("DELETE", "calendars/all")[1]["all"] is False


def test_who_is_busy_elsewhere_is_not_offered(house: House, receiver: Receiver) -> None:
    with clock.at(NOW) as move_to:
        one = offers(house)
        busy.take_file(house.sailing, house.member, "dentist.ics", ENGAGED.encode(), house.consultant)
        assert times(one) == ["10:00", "12:00"]
        busy.drop(BusyCalendar.objects.get(), house.consultant)
        assert times(one) == ["10:00", "11:00", "12:00"] and not Busy.objects.exists()
        allow(house.sailing, "127.0.0.1")
        receiver.answers = [(200, {}, ENGAGED)]
        followed = busy.follow_address(house.sailing, house.member, "", receiver.url, house.consultant)
        assert receiver.url not in followed.url_sealed
        until_quiet()
        assert times(one) == ["10:00", "12:00"]
        receiver.answers = [(200, {}, "a page")]
        move_to(NOW + timedelta(hours=1, minutes=1))
        until_quiet()
        followed.refresh_from_db()
        assert "no calendar" in followed.fault and times(one) == ["10:00", "12:00"]  # what was read before stands
        receiver.answers = [(200, {}, ENGAGED.replace("T113000", "T100000").replace("T120000", "T103000"))]
        move_to(NOW + timedelta(hours=2, minutes=3))
        until_quiet()
        followed.refresh_from_db()
        assert followed.fault == "" and times(one) == ["11:00", "12:00"]


def test_an_address_into_the_private_network_and_a_file_that_is_none_are_refused_in_words(
    house: House, api: Any
) -> None:
    with clock.at(NOW):
        offers(house)
        member = house.member.pk
        made = api("POST", "busy-calendars", {"member": member, "url": "http://10.0.0.1/calendar.ics"})
        assert made[0] == 200
        until_quiet()
        assert "private network" in BusyCalendar.objects.get().fault
        assert api("POST", "busy-calendars", {"member": member, "url": "file:///etc/passwd"})[0] == 422
        for content in (b"", b"\x00\xff", b"x" * (busy.LARGEST + 1)):
            try:
                busy.take_file(house.sailing, house.member, "a.ics", content, house.consultant)
            except busy.CannotFollow as error:
                assert "not taken" in str(error) or "more than" in str(error)
            else:
                raise AssertionError(content[:9])
        assert BusyCalendar.objects.count() == 1


def test_types_are_known_to_workflows_and_their_pages_to_messages(house: House) -> None:
    from bluffside.core.messages.merge import render
    from bluffside.server.workflows.facts import load_facts

    with clock.at(NOW):
        one, contact = offers(house), house.contact()
        made = booking.book(one, contact, at(11))
        house.sailing.refresh_from_db()
        facts = load_facts(house.sailing, [contact.pk], frozenset(), NOW)[contact.pk]
        said = render("{{ account.book.Taster_sail }} {{ appointment.link }} {{ appointment.member }}", facts)
        assert f"/book/{one.token} " in said and "/a/" in said and said.endswith(house.member.name)
        assert offering.names(house.sailing)["appointment"] == {"Taster sail": "60 minutes"}
        assert made.pk
