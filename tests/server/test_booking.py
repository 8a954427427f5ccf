"""Booking: what is free is what can be booked; one place goes to one person, however many want it; nobody is in two places."""

import re
import threading
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
from django.db import IntegrityError, connection, transaction
from django.db.backends.postgresql.psycopg_any import DateTimeTZRange
from django.test import Client

from bluffside.core.timing.local import to_local
from bluffside.server.appointments import booking, offering, pages
from bluffside.server.appointments.models import AppointmentType, Place, Sitting, Taken
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment
from bluffside.server.events.models import Event
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.walls import within
from tests.server.conftest import House
from tests.server.visiting import outside

NOW = datetime(2026, 3, 2, 9, tzinfo=UTC)  # a Monday
OPEN = {day: [{"start": "10:00", "end": "13:00"}] for day in ("mon", "tue", "wed", "thu", "fri")}
TUESDAY = date(2026, 3, 3)


def offers(house: House, name: str = "Taster sail", **parts: Any) -> AppointmentType:
    house.sailing.care = {"opening": {"days": OPEN}}
    house.sailing.save()
    made = offering.make(house.sailing, name, house.consultant)
    return offering.change(made, {"members": [house.member.pk], "minutes": 60, "every": 60} | parts, house.consultant)


def times(one: AppointmentType, day: date = TUESDAY) -> list[str]:
    return [f"{to_local(each.start, 'Europe/London'):%H:%M}" for each in offering.free_times(one, day, day)]


def at(hour: int, day: int = 3) -> datetime:
    return datetime(2026, 3, day, hour, tzinfo=UTC)


def test_what_is_booked_is_taken_for_every_type_that_needs_them_and_free_again_when_it_is_cancelled(
    house: House,
) -> None:
    with clock.at(NOW):
        taster, lesson = offers(house), offers(house, "Lesson", minutes=30, every=30, before=30)
        assert times(taster) == ["10:00", "11:00", "12:00"]
        made = booking.book(taster, house.contact(), at(11))
        assert (made.member, made.end, made.type) == (house.member, at(12), "Taster sail")
        assert Event.objects.filter(kind="appointment.booked").count() == 1
        assert times(taster) == ["10:00", "12:00"]
        assert times(lesson) == ["10:00", "10:30", "12:30"]  # half an hour before it they are not free either
        with pytest.raises(booking.NotFree):
            booking.book(lesson, house.contact(2), at(11))
        diary.settle(made, Appointment.State.CANCELLED)
        assert times(taster) == ["10:00", "11:00", "12:00"]
        assert not Sitting.objects.exists() and not Taken.objects.exists()
        again = booking.book(taster, house.contact(3), at(11))
        diary.move(again, at(12, day=4))
        assert times(taster) == ["10:00", "11:00", "12:00"]


def test_the_database_itself_refuses_two_at_one_time(house: House) -> None:
    with clock.at(NOW):
        booking.book(offers(house), house.contact(), at(11))
        taken = Taken.objects.get()
        with pytest.raises(IntegrityError), transaction.atomic():
            Taken.objects.create(
                account=house.sailing, sitting=taken.sitting, member=house.member,
                during=DateTimeTZRange(at(11) + timedelta(minutes=59), at(13)),
            )  # fmt: skip
        Taken.objects.create(
            account=house.sailing, sitting=taken.sitting, member=house.member, during=DateTimeTZRange(at(12), at(13))
        )


def test_a_thing_is_taken_once_and_who_is_away_or_has_left_is_not_offered(house: House) -> None:
    with clock.at(NOW):
        boat = house.sailing.things.create(name="Dinghy")
        one = offers(house, things=[boat.pk])
        other = offers(house, "Charter", members=[], things=[boat.pk])
        booking.book(other, house.contact(), at(10))
        assert times(one) == ["11:00", "12:00"]
        house.member.away_from = house.member.away_until = TUESDAY
        house.member.save()
        assert times(one) == [] and times(one, TUESDAY + timedelta(days=1)) == ["10:00", "11:00", "12:00"]
        house.sailing.memberships.all().delete()
        assert times(one, TUESDAY + timedelta(days=1)) == []
        assert times(other, TUESDAY + timedelta(days=1)) == ["10:00", "11:00", "12:00"]


def test_of_fifty_who_want_the_last_of_twelve_places_at_once_one_gets_it(committed_house: House) -> None:
    house = committed_house
    with clock.at(NOW):
        one = offers(house, "Class", places=12)
        contacts = [house.contact(number) for number in range(61)]
        for contact in contacts[:11]:
            booking.book(one, contact, at(10))
        found = rivals(one, contacts[11:], at(10))
        assert (found.count("booked"), len(found)) == (1, 50)
        assert {said for said in found if said != "booked"} <= {
            "The last place has just been taken.",
            "That time is not free any more.",
        }
        assert sorted(Place.objects.values_list("number", flat=True)) == list(range(1, 13))
        assert times(one) == ["11:00", "12:00"]
        again = rivals(one, contacts[11:31], at(11))  # and when nobody has begun the sitting yet
        assert again.count("booked") == 12
        assert Sitting.objects.filter(start=at(11)).count() == 1 == Taken.objects.filter(sitting__start=at(11)).count()


def rivals(one: AppointmentType, contacts: Sequence[Contact], start: datetime) -> list[str]:
    """What each is told, who come ten at the same moment: a test has few connections to share with those beside it."""
    together = threading.Barrier(10, timeout=60)

    def want(contact: Contact) -> str:
        try:
            with clock.at(NOW), within(one.account):
                together.wait()
                booking.book(one, contact, start)
                return "booked"
        except booking.NotFree as error:
            return str(error)
        finally:
            connection.close()

    with ThreadPoolExecutor(10) as pool:
        return list(pool.map(want, contacts))


# ---- the page


def test_somebody_books_on_the_page_without_scripts_in_their_own_zone(house: House) -> None:
    with clock.at(NOW):
        one = offers(house, about="Two hours in a keelboat.", price="£38", place="The old slip", places=2)
        page = outside(f"/book/{one.token}").content.decode()
        assert "Two hours in a keelboat." in page and "£38" in page and "Tuesday 3 March" in page
        hobart = outside(f"/book/{one.token}?zone=Australia/Hobart").content.decode()
        assert ">21:00<" in hobart and ">10:00<" not in hobart  # 10:00 in London
        link = re.search(r'href="(\?zone=Europe/London&amp;from=[\d-]+&amp;at=2026-03-03T11:00:00Z)#chosen"', page)
        assert link
        chosen = outside(f"/book/{one.token}{link[1].replace('&amp;', '&')}").content.decode()
        assert "Book Tuesday 3 March, 11:00" in chosen
        given = {
            "at": "2026-03-03T11:00:00Z",
            "zone": "Europe/London",
            "name": "Ana Reyes",
            "mobile": "12",
            "email": "",
        }
        wrong = outside(f"/book/{one.token}", given)
        assert wrong.status_code == 422 and 'value="Ana Reyes"' in wrong.content.decode()
        done = outside(f"/book/{one.token}", given | {"mobile": "07700 900444"})
        assert "Taster sail: Tuesday 3 March, 11:00, The old slip" in done.content.decode()
        ana = Contact.objects.get(mobile="+447700900444")
        assert Appointment.objects.get(contact=ana).start == at(11)
        assert "last place" in outside(f"/book/{one.token}").content.decode()
        twice = outside(f"/book/{one.token}", given | {"mobile": "07700 900444"})
        assert twice.status_code == 409 and "You have a place then already." in twice.content.decode()


def test_who_comes_too_late_is_told_what_is_free_and_keeps_what_was_typed(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    with clock.at(NOW):
        one = offers(house)
        booking.book(one, house.contact(), at(11))
        given = {"at": "2026-03-03T11:00:00Z", "name": "Ana Reyes", "email": "ana@example.com"}
        late = outside(f"/book/{one.token}", given)
        assert late.status_code == 409 and "not free any more. These are free now." in late.content.decode()
        for at_ in ("", "2026-03-03T11:00", "yesterday", "2026-03-03T11:30:00Z", "2020-01-01T00:00:00Z"):
            assert outside(f"/book/{one.token}", given | {"at": at_}).status_code in (409, 422)
        assert outside(f"/book/{one.token}", given | {"at": "2026-03-03T12:00:00Z", "website": "x"}).status_code == 429
        monkeypatch.setattr(pages, "AN_HOUR", 0)
        assert outside(f"/book/{one.token}", given | {"at": "2026-03-03T12:00:00Z"}).status_code == 429
        assert Appointment.objects.count() == 1
        for way in ("?zone=Narnia&from=x&at=y", "?from=9999-12-31", "?from=0001-01-01"):
            assert outside(f"/book/{one.token}{way}").status_code == 200
        one.open = False
        one.save()
        assert outside(f"/book/{one.token}").status_code == 410 and Client().get("/book/x").status_code == 404


# ---- Set-up


def test_types_members_hours_and_things_are_set_and_what_is_wrong_is_said(house: House, api: Any) -> None:
    with clock.at(NOW):
        house.sailing.care = {"opening": {"days": OPEN}}
        house.sailing.save()
        _, made = api("POST", "set-up/appointments", {"name": "Taster sail"})
        [one] = made["types"]
        way = f"set-up/appointments/{one['id']}"
        assert [member["name"] for member in made["members"]] == ["Mel R"]
        assert (
            api("PATCH", way, {"offer": {"minutes": 45, "members": [house.member.pk]}})[1]["types"][0]["offer"][
                "minutes"
            ]
            == 45
        )
        status, refused = api("PATCH", way, {"offer": {"minutes": 1}})
        assert (status, list(refused["faults"])) == (422, ["minutes"])
        assert api("PATCH", way, {"offer": {"price": "£5\0"}})[0] == 422
        assert api("PATCH", way, {"offer": {"members": [house.consultant.pk]}})[0] == 422
        _, data = api("POST", "set-up/things", {"name": "Dinghy"})
        [thing] = data["things"]
        assert api("PATCH", way, {"offer": {"things": [thing["id"]]}})[0] == 200
        assert api("DELETE", f"set-up/things/{thing['id']}")[0] == 409
        own = {"days": {"tue": [{"start": "12:00", "end": "13:00"}]}}
        assert api("PUT", f"set-up/appointments/hours/{house.member.pk}", {"hours": own})[0] == 200
        row = AppointmentType.objects.get()
        assert times(row) == ["12:00"]
        assert (
            api("PUT", f"set-up/appointments/hours/{house.member.pk}", {"hours": None})[1]["members"][0]["hours"]
            is None
        )
        booking.book(row, house.contact(), at(12))
        assert api("DELETE", way)[0] == 409
        assert api("PATCH", way, {"open": False, "name": "Trial sail"})[1]["types"][0]["name"] == "Trial sail"
        assert api("PUT", "set-up/appointments/hours/999999", {"hours": None})[0] == 404
