"""What is booked, afterwards: moved, confirmed and cancelled by its links; a place that comes free goes to who waited; a course; a day
on which an instructor is ill; and all of it as the team does it."""

import re
from datetime import timedelta
from typing import Any

import pytest

from bluffside.server.appointments import booking, offering, sittings, waiting
from bluffside.server.appointments.models import AppointmentType, Place, Sitting, Taken, Waiting
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment
from bluffside.server.events.models import Event
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message
from bluffside.server.people.erasing import erase
from bluffside.server.people.merging import merge
from bluffside.server.people.models import Contact
from bluffside.server.people.services import set_consent
from bluffside.server.people.signed import appointment_link
from bluffside.server.practice import clock
from bluffside.server.practice.models import Membership, Person
from bluffside.server.worker import until_quiet
from tests.server.conftest import House
from tests.server.test_booking import NOW, at, offers, times
from tests.server.visiting import outside

ILL = "Mel is ill"


def told(contact: Contact) -> list[str]:
    """What they were sent by text, the first first."""
    return list(Message.objects.filter(contact=contact, channel="text").order_by("id").values_list("body", flat=True))


def states() -> list[str]:
    return list(Appointment.objects.order_by("id").values_list("state", flat=True))


def path(link: str) -> str:
    return "/" + link.split("/", 3)[3]


def own_page(one: Appointment) -> str:
    return path(appointment_link(one.account_id, one.pk))


def second(house: House, name: str = "Ansel D") -> Person:
    person = Person.objects.create_user(
        f"{name[0]}@example.com", "chalk-and-thrift", name=name, practice=house.practice
    )
    Membership.objects.create(account=house.sailing, person=person, role="team")
    return person


# ---- by links


def test_looking_at_its_page_changes_nothing_and_its_buttons_confirm_move_and_cancel_it(house: House) -> None:
    with clock.at(NOW):
        made = booking.book(offers(house, change_hours=2), house.contact(), at(11))
        page = own_page(made)
        for way in ("", "?do=cancel", "?do=confirm", "?do=move"):
            assert outside(page + way).status_code == 200
        assert (
            states() == ["booked"] and Event.objects.count() == Event.objects.exclude(kind="appointment.moved").count()
        )
        assert "We expect you" in outside(page, {"do": "confirm"}).content.decode() and states() == ["confirmed"]
        choice = outside(page + "?do=move").content.decode()
        assert ">11:00<" in choice  # its own time counts as free: nobody else is in it
        assert outside(page, {"do": "move", "at": "2026-03-03T10:30:00Z"}).status_code == 409  # no beginning of it
        assert outside(page, {"do": "move", "at": "yesterday"}).status_code == 422
        moved = outside(page, {"do": "move", "at": "2026-03-04T12:00:00Z"})
        assert "It is moved." in moved.content.decode()
        made.refresh_from_db()
        assert (made.start, made.state, made.sequence) == (at(12, day=4), "booked", 1)
        assert times(offers(house, "Other")) == ["10:00", "11:00", "12:00"]  # on Tuesday they are free again
        assert Event.objects.filter(kind="appointment.moved").count() == 1
        assert "Thank you for telling us" in outside(page, {"do": "cancel"}).content.decode()
        again = outside(page, {"do": "move", "at": "2026-03-04T10:00:00Z"}).content.decode()
        assert "This appointment is cancelled." in again and "Book another time" in again
        assert states() == ["cancelled"] and not Taken.objects.exists()
        assert outside(page[:-1] + "x").status_code == 404


def test_too_late_it_stays_and_says_whom_to_ring(house: House) -> None:
    with clock.at(NOW) as move_to:
        made = booking.book(offers(house), house.contact(), at(11))
        move_to(at(11) - timedelta(hours=23))
        page = outside(own_page(made)).content.decode()
        assert "until Monday 2 March, 11:00" in page and "Cancel Tuesday" not in page
        assert outside(own_page(made), {"do": "cancel"}).status_code == 409 and states() == ["booked"]
        move_to(at(13))
        assert "is over" in outside(own_page(made), {"do": "confirm"}).content.decode() and states() == ["booked"]


def test_of_two_who_move_to_one_time_one_stays_where_they_are(house: House) -> None:
    with clock.at(NOW):
        one = offers(house, change_hours=0)
        first, other = booking.book(one, house.contact(), at(10)), booking.book(one, house.contact(2), at(11))
        booking.move(first, at(12))
        with pytest.raises(booking.NotFree):
            booking.move(other, at(12))
        other.refresh_from_db()
        assert other.start == at(11) and times(one) == ["10:00"]
        assert Place.objects.count() == Sitting.objects.count() == Taken.objects.count() == 2


# ---- waiting


def test_a_place_that_comes_free_is_kept_for_who_waits_longest_and_then_for_the_next(house: House) -> None:
    with clock.at(NOW) as move_to:
        one = offers(house, "Class", places=2, waiting_hours=3)
        people = [house.contact(n) for n in range(5)]
        booked = [booking.book(one, contact, at(11)) for contact in people[:2]]
        assert times(one) == ["10:00", "11:00", "12:00"]  # what is full can be waited for
        with pytest.raises(booking.NotFree, match="last place"):
            booking.book(one, people[2], at(11))
        sitting = Sitting.objects.get(start=at(11))
        line = [waiting.join(one, contact, sitting) for contact in people[2:]]
        assert [waiting.join(one, people[2], sitting)] == line[:1]  # once is enough
        with pytest.raises(waiting.CannotWait):
            waiting.join(one, people[0], sitting)
        diary.settle(booked[0], Appointment.State.CANCELLED)
        assert len(told(people[2])) == 1 and told(people[3]) == []
        with pytest.raises(booking.NotFree):  # it is kept: nobody is quicker
            booking.book(one, house.contact(9), at(11))
        move_to(NOW + timedelta(hours=3, minutes=1))
        until_quiet()
        assert len(told(people[3])) == 1 and not Waiting.objects.filter(pk=line[0].pk).exists()
        gone = outside(path(waiting.link_of(line[0])), {"do": "take"})
        assert gone.status_code == 410 and Appointment.objects.count() == 2
        page = path(waiting.link_of(line[1]))
        assert "Take the place" in outside(page).content.decode() and Appointment.objects.count() == 2
        assert "The place is yours." in outside(page, {"do": "take"}).content.decode()
        assert Appointment.objects.get(contact=people[3]).state == "booked"
        assert "You do not wait any more" in outside(path(waiting.link_of(line[2])), {"do": "leave"}).content.decode()
        diary.settle(Appointment.objects.get(contact=people[3]), Appointment.State.CANCELLED)
        assert not Waiting.objects.exists() and Place.objects.filter(sitting=sitting).count() == 1


def test_who_comes_to_a_full_time_on_the_page_is_put_on_the_list(house: House) -> None:
    with clock.at(NOW):
        one = offers(house, "Class", places=1, waiting_hours=3)
        booking.book(one, house.contact(), at(11))
        page = outside(f"/book/{one.token}?at=2026-03-03T11:00:00Z").content.decode()
        assert "Wait for a place, Tuesday 3 March, 11:00" in page and "<small>full</small>" in page
        given = {"at": "2026-03-03T11:00:00Z", "name": "Ana Reyes", "mobile": "07700 900444", "wait": "yes"}
        done = outside(f"/book/{one.token}", given).content.decode()
        assert "You are on the waiting list" in done and Waiting.objects.count() == 1
        assert outside(f"/book/{one.token}", given | {"at": "2026-03-03T10:00:00Z"}).status_code == 409


# ---- courses


def test_a_course_is_booked_moved_and_cancelled_as_one(house: House) -> None:
    with clock.at(NOW):
        one = offers(house, "Course", dates=3, apart=7, change_hours=0)
        booking.book(offers(house, "Lesson"), house.contact(7), at(11, day=17))  # in the way of the third date
        assert times(one) == ["10:00", "12:00"]
        made = booking.book(one, house.contact(), at(10))
        dates = [row.start for row in diary.dates_of(made)]
        assert dates == [at(10, day=3), at(10, day=10), at(10, day=17)]
        assert Event.objects.filter(kind="appointment.booked", contact_id=made.contact_id).count() == 1
        with pytest.raises(booking.NotFree):
            booking.book(offers(house, "Charter"), house.contact(8), at(10, day=10))
        booking.move(made, at(12))
        assert [row.start for row in diary.dates_of(made)] == [at(12, day=3), at(12, day=10), at(12, day=17)]
        assert "Tuesday 17 March, 12:00" in outside(own_page(made)).content.decode()
        diary.settle(made, Appointment.State.CANCELLED)
        assert states().count("cancelled") == 3 and Sitting.objects.count() == 1


# ---- the team


def test_the_team_books_at_any_time_but_nobody_twice(house: House, api: Any) -> None:
    with clock.at(NOW):
        one, contact, other = offers(house), house.contact(), second(house)
        offering.change(one, {"members": [house.member.pk, other.pk]}, house.consultant)
        free = api("GET", f"appointments/free?type={one.pk}&start=2026-03-03&days=1")[1]
        assert [each["words"] for each in free["days"]["2026-03-03"]] == ["10:00", "11:00", "12:00"]
        assert free["beyond"] is None
        weekend = api("GET", f"appointments/free?type={one.pk}&start=2026-03-07&days=2")[1]
        assert (weekend["days"], weekend["beyond"]) == ({}, "2026-03-09")
        way, given = (
            f"contacts/{contact.pk}/appointments",
            {"type": one.pk, "at": "2026-03-03T19:30", "member": other.pk},
        )
        status, made = api("POST", way, given)
        assert (status, made["member"], made["local_start"]) == (201, "Ansel D", "2026-03-03T19:30:00")
        status, refused = api("POST", f"contacts/{house.contact(2).pk}/appointments", given)
        assert status == 409 and "just been taken" in refused["detail"]
        assert api("POST", way, given | {"at": "2026-03-01T10:00"})[0] == 409  # that is past
        status, moved = api("POST", f"appointments/{made['id']}/move", {"at": "2026-03-04T08:15", "tell": True})
        assert (status, moved["words"]) == (200, "Wed 4 Mar, 08:15")
        assert any("Your appointment is moved" in words for words in told(contact))
        assert api("POST", f"appointments/{made['id']}/state", {"state": "cancelled"})[1]["state"] == "cancelled"
        assert api("POST", f"appointments/{made['id']}/state", {"state": "attended"})[0] == 409
        assert [each["state"] for each in api("GET", way)[1]] == ["cancelled"]


def test_a_class_is_moved_with_all_who_are_in_it_and_called_off(house: House, api: Any) -> None:
    with clock.at(NOW):
        one = offers(house, "Class", places=3)
        people = [house.contact(n) for n in range(3)]
        for contact in people:
            booking.book(one, contact, at(11))
        booking.book(offers(house, "Lesson"), house.contact(8), at(12))
        [entry] = [each for each in api("GET", "calendar?start=2026-03-03&days=1")[1]["entries"] if each["places"] == 3]
        assert len(entry["people"]) == 3
        way = f"sittings/{entry['sitting']}"
        status, refused = api("POST", f"{way}/move", {"at": "2026-03-03T12:30", "tell": True})
        assert status == 409 and "taken then" in refused["detail"] and told(people[0]) == []
        assert api("POST", f"{way}/move", {"at": "2026-03-03T10:00", "tell": True})[0] == 204
        assert set(Appointment.objects.filter(type="Class").values_list("start", flat=True)) == {at(10)}
        assert all("moved: Class, Tuesday 3 March, 10:00" in told(contact)[0] for contact in people)
        assert api("POST", f"{way}/call-off", {"tell": True, "why": "Storm warning"})[0] == 204
        assert all(re.search("Storm warning.*Choose another time", told(contact)[1]) for contact in people)
        assert states().count("cancelled") == 3 and times(one) == ["10:00", "11:00"]


def test_an_ill_instructors_day_of_nine_and_each_is_told_what_became_of_theirs(house: House, api: Any) -> None:
    with clock.at(NOW):
        other = second(house)
        hours = {"days": {"tue": [{"start": "06:00", "end": "20:00"}]}}
        house.sailing.care = {"opening": hours}
        house.sailing.save()
        one = offering.make(house.sailing, "Lesson", house.consultant)
        one = offering.change(one, {"members": [house.member.pk], "every": 60}, house.consultant)
        people = [house.contact(n) for n in range(9)]
        for n, contact in enumerate(people):
            booking.book(one, contact, at(8 + n))
        offering.change(one, {"members": [house.member.pk, other.pk]}, house.consultant)
        api(
            "PUT",
            f"set-up/appointments/hours/{other.pk}",
            {"hours": {"days": {"tue": [{"start": "08:00", "end": "12:00"}]}}},
        )
        days = f"member={house.member.pk}&first=2026-03-03&last=2026-03-03"
        seen = api("GET", f"appointments/away?{days}")[1]
        assert [each["by"] for each in seen] == ["Ansel D"] * 4 + [""] * 5 and told(people[0]) == []
        body = {"member": house.member.pk, "first": "2026-03-03", "last": "2026-03-03", "why": ILL, "tell": True}
        assert api("POST", "appointments/away", body) == (200, seen)
        said = [told(contact) for contact in people]
        assert all(len(one) == 1 for one in said)
        assert all("Ansel instead of Mel" in one[0] for one in said[:4])
        assert all(ILL in one[0] and "Choose another time" in one[0] for one in said[4:])
        assert set(Taken.objects.values_list("member", flat=True)) == {other.pk}
        assert times(one) == []  # Ansel has four, and Mel none that day
        assert api("POST", "appointments/away", body | {"last": "2026-02-03"})[0] == 422


def test_whoever_leaves_leaves_no_time_taken(house: House) -> None:
    with clock.at(NOW):
        one, to = offers(house), second(house)
        booking.book(one, house.contact(), at(11))
        sittings.hand_over(house.sailing, house.member, to)
        assert [row.member for row in Taken.objects.all()] == [to]


def test_whoever_is_erased_takes_no_time_any_more(house: House) -> None:
    with clock.at(NOW):
        one, contact = offers(house), house.contact()
        booking.book(one, contact, at(11))
        erase(contact, house.consultant)
        assert not Sitting.objects.exists() and not Taken.objects.exists() and len(times(one)) == 3


def test_two_who_wait_and_are_one_person_wait_once(house: House) -> None:
    with clock.at(NOW):
        one, people = offers(house, "Class", waiting_hours=3), [house.contact(n) for n in range(3)]
        booking.book(one, people[0], at(11))
        for contact in people[1:]:
            waiting.join(one, contact, Sitting.objects.get())
        merge(house.sailing, people[1].pk, people[2].pk, (), Cause(actor=house.consultant))
        assert [row.contact_id for row in Waiting.objects.all()] == [people[1].pk]


def test_a_form_asks_its_questions_on_the_page_and_its_answers_are_the_forms(house: House) -> None:
    from bluffside.server.capture import forms
    from bluffside.server.capture.models import FormAnswer

    with clock.at(NOW):
        form = forms.make(house.sailing, "Before you come")
        one = offers(house, form=form.pk)
        page = outside(f"/book/{one.token}?at=2026-03-03T11:00:00Z").content.decode()
        assert "Your mobile" not in page and (stamp := re.search(r'name="page" value="([^"]+)"', page))
        given = {"at": "2026-03-03T11:00:00Z", "page": forms.stamp(form, 40), "q1": "Ana Reyes"}
        wrong = outside(f"/book/{one.token}", given)
        assert wrong.status_code == 422 and "Please answer this." in wrong.content.decode() and stamp
        done = outside(f"/book/{one.token}", given | {"q2": "ana@example.com"})
        assert "It is booked" in done.content.decode()
        assert FormAnswer.objects.get().contact == Appointment.objects.get().contact
        program = outside(
            f"/book/{one.token}", given | {"q2": "b@example.com", "page": "made up", "at": "2026-03-03T10:00:00Z"}
        )
        assert program.status_code == 429 and Appointment.objects.count() == 1


def test_a_type_that_is_called_otherwise_is_so_everywhere(house: House, api: Any) -> None:
    with clock.at(NOW):
        one = offers(house)
        made = booking.book(one, house.contact(), at(11))
        status, _ = api("PATCH", f"set-up/appointments/{one.pk}", {"name": "Trial sail"})
        made.refresh_from_db()
        house.sailing.refresh_from_db()
        assert (status, made.type, list(house.sailing.booking_pages)) == (200, "Trial sail", ["Trial sail"])
        assert booking.type_of(made) == AppointmentType.objects.get()
        api("PATCH", f"set-up/appointments/{one.pk}", {"open": False})
        house.sailing.refresh_from_db()
        assert house.sailing.booking_pages == {}


@pytest.mark.parametrize("by_email", [True, False])
def test_who_can_be_told_nothing_is_told_nothing_and_nothing_fails(house: House, by_email: bool) -> None:
    with clock.at(NOW):
        contact = house.contact(3)
        set_consent(house.sailing, [contact.pk], "text", False, "asked for none", purposes=("service",))
        if not by_email:
            set_consent(house.sailing, [contact.pk], "email", False, "asked for none", purposes=("service",))
        booking.book(offers(house), contact, at(11))
        sittings.call_off(Sitting.objects.get(), house.consultant, tell=True)
        assert told(contact) == [] and states() == ["cancelled"]
