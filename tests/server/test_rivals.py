"""Two who act in the same moment, as threads with connections of their own: one place is one person's, nobody loses what they have, and
nobody waits for somebody who waits for them."""

import re
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime, timedelta
from functools import partial
from threading import Barrier

import pytest
from django.db import connection

from bluffside.server.appointments import booking, own_page, sittings, waiting
from bluffside.server.appointments.models import Place, Sitting, Waiting
from bluffside.server.deals.taking_back import take_back_act
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment
from bluffside.server.people.erasing import erase
from bluffside.server.pipeline import services as pipeline
from bluffside.server.pipeline import stages
from bluffside.server.pipeline.models import Deal, DealStay, Stage
from bluffside.server.practice import clock
from bluffside.server.practice.walls import within
from tests.server.conftest import House
from tests.server.test_booking import NOW, at, offers

pytestmark = pytest.mark.django_db(transaction=True)


def together(house: House, *acts: Callable[[], object], now: datetime = NOW) -> list[str]:
    """What came of each, in their order: "done", or why not."""
    start = Barrier(len(acts))

    def one(act: Callable[[], object]) -> str:
        try:
            with clock.at(now), within(house.sailing):
                start.wait()
                act()
                return "done"
        except (booking.NotFree, pipeline.BadDeal) as error:
            return str(error)
        finally:
            connection.close()

    with ThreadPoolExecutor(len(acts)) as pool:
        return list(pool.map(one, acts))


def places() -> dict[str, list[int]]:
    """Who has which place, by when it begins."""
    rows = Place.objects.filter(appointment__isnull=False).order_by("sitting__start", "number")
    found: dict[str, list[int]] = {}
    for start, contact in rows.values_list("sitting__start", "appointment__contact_id"):
        found.setdefault(f"{start:%H:%M}", []).append(contact)
    return found


def test_a_kept_place_is_taken_or_is_the_next_ones_however_late_both_come(house: House) -> None:
    a, b, c = (house.contact(n) for n in range(3))
    with clock.at(NOW):
        one = offers(house, waiting_hours=2)
        first = booking.book(one, a, at(11))
        waits = [waiting.join(one, who, Sitting.objects.get()) for who in (b, c)]
        diary.settle(first, Appointment.State.CANCELLED)
        until = Waiting.objects.get(pk=waits[0].pk).until
        assert until == NOW + timedelta(hours=2)
    answers = set()
    for moment in (until - timedelta(seconds=1), until):
        came = together(
            house, partial(own_page.take, waits[0]), partial(waiting.waiting_batch, house.sailing), now=moment
        )
        answers.add(came[0])
        assert came[1] == "done" and Place.objects.count() == 1
    # taken in the last second; afterwards there is nothing to take any more, and nobody else has been given it
    assert answers == {"done", "The place has gone to the next one who waited."}
    assert places() == {"11:00": [b.pk]} and not Waiting.objects.get().until


def test_two_move_into_the_last_place_of_a_class_and_one_stays_where_they_are(house: House) -> None:
    who = [house.contact(n) for n in range(3)]
    with clock.at(NOW):
        one = offers(house, places=2)
        held = [booking.book(one, who[0], at(12)), booking.book(one, who[1], at(10)), booking.book(one, who[2], at(11))]
    came = together(house, *(partial(booking.move, each, at(12)) for each in held[1:]))
    assert sorted(came)[1] == "done" and re.search("taken|quicker", sorted(came)[0])
    stays = who[1 + came.index(sorted(came)[0])]
    assert len(places()["12:00"]) == 2 and [stays.pk] in places().values() and Place.objects.count() == 3


def test_two_change_places_between_two_classes_and_neither_waits_for_the_other(house: House) -> None:
    who = [house.contact(n) for n in range(4)]
    with clock.at(NOW):
        one = offers(house, places=3)
        held = [booking.book(one, person, at(10 + 2 * (n % 2))) for n, person in enumerate(who)]
    for round in range(4):
        to = [at(12), at(10)] if round % 2 == 0 else [at(10), at(12)]
        assert together(
            house, partial(booking.move, held[0], to[0]), partial(booking.move, held[1], to[1])
        ) == ["done", "done"]  # fmt: skip
    assert {start: len(some) for start, some in places().items()} == {"10:00": 2, "12:00": 2}


def test_two_who_want_each_others_time_are_told_so_and_neither_hangs(house: House) -> None:
    """Two kinds of appointment with one member: each wants to go where the other one is."""
    with clock.at(NOW):
        kinds = offers(house), offers(house, "Lesson")
        for n, kind in enumerate(kinds):
            booking.book(kind, house.contact(n), at(11 + n))
        mine, theirs = Sitting.objects.select_related("type__account").order_by("start")
    for _ in range(3):
        came = together(
            house,
            partial(sittings.move, mine, at(12), None, house.consultant, tell=False),
            partial(sittings.move, theirs, at(11), None, house.consultant, tell=False),
        )
        assert all(re.search("taken then|quicker", one) for one in came)
        assert [each.start for each in Sitting.objects.order_by("start")] == [at(11), at(12)]


def test_four_book_the_three_places_of_a_course(house: House) -> None:
    who = [house.contact(n) for n in range(4)]
    with clock.at(NOW):
        one = offers(house, places=3, dates=3, apart=1)
    came = together(house, *(partial(booking.book, one, each, at(10)) for each in who))
    assert came.count("done") == 3 and Place.objects.count() == 9
    assert sorted(set(Place.objects.values_list("number", flat=True))) == [1, 2, 3]


def test_whoever_waits_is_asked_when_somebody_with_a_place_is_erased(house: House) -> None:
    with clock.at(NOW):
        one = offers(house, waiting_hours=2)
        goes, waits = house.contact(0), house.contact(1)
        booking.book(one, goes, at(11))
        row = waiting.join(one, waits, Sitting.objects.get())
        erase(goes, house.consultant)
        row.refresh_from_db()
        assert row.until == NOW + timedelta(hours=2) and Place.objects.get().waiting == row


# ---- deals


def test_no_deal_comes_to_a_stage_while_it_is_taken_out_or_called_otherwise(house: House) -> None:
    for act in ("taken out", "called otherwise"):
        courses = stages.make(house.sailing, f"Courses, {act}", house.consultant, ["New", "Talking", "Place held"])
        talking, new = courses.stages.get(name="Talking"), courses.stages.get(name="New")
        some = [pipeline.create_deal(house.contact(len(act) * 10 + n), courses.name, "New", "") for n in range(4)]
        change = (
            partial(stages.drop_stage, talking, new, house.consultant)
            if act == "taken out"
            else partial(stages.change_stage, talking, {"name": "In talks"}, house.consultant)
        )
        moves = [partial(pipeline.move_deals, house.sailing, [one.pk], "Talking", "open", house.member) for one in some]
        came = together(house, change, *moves)
        assert came[0] == "done" and {*came[1:]} <= {"done", f"The pipeline “{courses.name}” has no stage “Talking”."}
        known = set(Stage.objects.filter(pipeline=courses).values_list("name", flat=True))
        assert set(Deal.objects.filter(pipeline=courses.name).values_list("stage", flat=True)) <= known
        assert DealStay.objects.filter(pipeline=courses.name, left_at=None).count() == 4


def test_an_act_is_taken_back_once_and_of_two_deals_made_at_once_one_is_asked_about(house: House) -> None:
    stages.make(house.sailing, "Courses", house.consultant, ["New", "Talking"])
    some = [pipeline.create_deal(house.contact(n), "Courses", "New", "") for n in (1, 2)]
    act = pipeline.move_deals(house.sailing, [one.pk for one in some], "Talking", "open", house.member)
    back: list[int] = []
    takes = [lambda: back.append(take_back_act(house.sailing, act.key, house.member)[1])] * 2
    assert together(house, *takes) == ["done", "done"] and sorted(back) == [0, 2]
    who = house.contact(3)
    makes = partial(pipeline.create_deal, who, "Courses", "New", "Junior", although=False)
    came = together(house, makes, makes)
    assert sorted(came)[1] == "done" and "open on Courses already" in sorted(came)[0]
    assert Deal.objects.filter(contact=who).count() == 1
