"""People brought into a workflow by hand: a few at a time, paused, taken back, by a condition or a file."""

from collections import Counter
from datetime import UTC, date, datetime, timedelta
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import Client
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.core.care.trickle import Trickle
from bluffside.core.timing.local import to_local
from bluffside.server import moving_the_clock
from bluffside.server.messaging.models import Message
from bluffside.server.outside.models import Item
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import intakes, writing
from bluffside.server.workflows.models import Enrolment, Intake
from tests.core.examples import ASK
from tests.server.bringing import people, who
from tests.server.conftest import NOON, House

DAY = timedelta(days=1)
WEEKDAYS = {"weekdays": ["mon", "tue", "wed", "thu", "fri"]}


def days_joined(zone: str) -> Counter[date]:
    return Counter(to_local(row.joined_at, zone).date() for row in Enrolment.objects.all())


def test_five_a_day_on_weekdays_come_in_as_planned_and_finish_on_the_day_that_was_said(
    api: Any, house: House, settings: Any
) -> None:
    workflow, ids = house.workflow(), people(house, 23)
    given = who(ids) | {"trickle": {"count": 5, "each": "day"} | WEEKDAYS}
    thursday = datetime(2026, 3, 5, 12, tzinfo=UTC)
    with clock.at(thursday) as move_to:
        _, plan = api("POST", f"workflows/{workflow.id}/intakes/plan", given)
        assert [day["count"] for day in plan["days"]] == [5, 5, 5, 5, 3]
        assert plan["finishes"] == "Wed 11 Mar, 09:00"
        status, made = api("POST", f"workflows/{workflow.id}/intakes", given)
        assert (status, made["came"], made["state"]) == (201, 5, "running")  # the first portion is inside at once
        moving_the_clock.run_through(thursday + 10 * DAY, move_to)
    planned = {date.fromisoformat(day["day"]): day["count"] for day in plan["days"]}
    assert days_joined("Europe/London") == planned
    row = Intake.objects.get()
    assert (row.state, row.came, row.next_at) == ("done", 23, None)
    assert row.ended_at == datetime(2026, 3, 11, 9, tzinfo=UTC)
    assert Enrolment.objects.values("contact_id").distinct().count() == 23


@given(
    count=st.integers(1, 7),
    people_=st.integers(0, 25),
    each=st.sampled_from(["minute", "hour", "day"]),
    pauses=st.sets(st.integers(0, 8), max_size=3),
)
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_however_an_intake_is_paused_nobody_is_lost_and_nobody_comes_twice(
    house: House, count: int, people_: int, each: str, pauses: set[int]
) -> None:
    with transaction.atomic():
        workflow = house.workflow(steps=ASK["steps"][:1])
        ids = [house.contact(number).id for number in range(100, 100 + people_)]
        trickle = Trickle(count=count, each=each)  # type: ignore[arg-type]
        with clock.at(NOON) as move_to:
            row = intakes.start(workflow, ids, house.consultant, NOON, trickle)
            for turn in range(200):
                row.refresh_from_db()
                if row.state == "done":
                    break
                if turn in pauses:
                    intakes.pause(row)
                    assert intakes.intake_batch(house.sailing) == 0  # and nobody comes in meanwhile
                    intakes.resume(row)
                    row.refresh_from_db()
                assert row.next_at
                move_to(max(row.next_at, clock.now()))
                before = row.people.exclude(did="").count()
                assert intakes.intake_batch(house.sailing) == min(count, people_ - before)
        assert row.state == "done"
        inside = list(workflow.enrolments.values_list("contact_id", flat=True))
        assert sorted(inside) == sorted(ids)
        if each == "day":  # nor more in a day than the trickle says
            assert all(some <= count for some in days_joined("Europe/London").values())
        transaction.set_rollback(True)


def test_what_was_started_is_taken_back_for_those_to_whom_nothing_went_out(api: Any, house: House) -> None:
    """One has got the first message; one is held by the sending hours; one waits in the outbox; one is to come."""
    workflow = house.workflow(hours={"start": "09:00", "end": "19:00"})
    ids = people(house, 3)
    given = who(ids) | {"trickle": {"count": 1, "each": "hour", "start": "08:00", "end": "23:00"}}
    with clock.at(NOON) as move_to:
        _, made = api("POST", f"workflows/{workflow.id}/intakes", given)
        until_quiet()
        assert Item.objects.count() == 1
        assert api("POST", f"intakes/{made['id']}/pause")[1]["state"] == "paused"
        move_to(NOON + 8 * timedelta(hours=1))
        assert api("POST", f"intakes/{made['id']}/resume")[1]["next"] == "Mon 2 Mar, 20:00"
        until_quiet()
        _, [row] = api("GET", f"workflows/{workflow.id}/intakes")
        assert (row["came"], row["may_be_taken_back"]) == (2, 1)
        _, row = api("POST", f"intakes/{made['id']}/take-back")
        until_quiet()
        assert (row["state"], row["may_be_taken_back"]) == ("taken_back", 0)
        status, refused = api("POST", f"intakes/{made['id']}/resume")
        assert (status, refused["detail"]) == (409, "It is taken back already.")
        moving_the_clock.run_through(NOON + 5 * DAY, move_to)
    first, second = Enrolment.objects.order_by("id")
    assert (first.ended, second.ended) != ("taken back by Imogen F", "")
    assert second.ended == "taken back by Imogen F"
    assert Enrolment.objects.count() == 2  # the third never came in
    assert not Message.objects.filter(contact_id=ids[1]).exclude(state="cancelled").exists()


def test_an_intake_waits_at_a_closed_door_and_says_so(api: Any, house: House) -> None:
    workflow = house.workflow()
    begin = {"begin": "2026-03-02T15:00"}
    with clock.at(NOON) as move_to:
        _, made = api("POST", f"workflows/{workflow.id}/intakes", who(people(house, 2)) | begin)
        assert (made["came"], made["next"]) == (0, "Mon 2 Mar, 15:00")
        writing.set_open(workflow, False, house.consultant)
        moving_the_clock.run_through(NOON + DAY, move_to)
        _, [row] = api("GET", f"workflows/{workflow.id}/intakes")
        assert (row["state"], row["fault"], row["came"]) == ("paused", "It is closed to newcomers.", 0)
        writing.set_open(workflow, True, house.consultant)
        api("POST", f"intakes/{made['id']}/resume")
        until_quiet()
    assert Intake.objects.get().state == "done" and Enrolment.objects.count() == 2


def test_whoever_fits_a_condition_comes_in(api: Any, house: House) -> None:
    workflow, ids = house.workflow(), people(house, 6)
    api("POST", "contacts/tag", {"who": {"ids": ids[1:4]}, "tag": "keen"})
    house.sailing.contacts.filter(id=ids[2]).update(mobile="")
    house.contact(1, house.pottery)
    keen = {"test": "tag", "tag": "keen", "has": True}
    where = {"test": "all", "of": [keen, {"test": "reach", "channel": "text", "can": True}]}
    _, plan = api("POST", f"workflows/{workflow.id}/intakes/plan", {"who": {"where": where}})
    assert plan["joining"] == 2
    assert api("POST", f"workflows/{workflow.id}/intakes", {"who": {"where": where}})[1]["came"] == 2
    assert set(workflow.enrolments.values_list("contact_id", flat=True)) == {ids[1], ids[3]}
    nobody = api("POST", f"workflows/{workflow.id}/intakes/plan", {"who": {"ids": []}})[1]
    assert nobody["joining"] == 0


def test_a_file_says_whom_and_which_rows_nobody_knows(house: House, signed_in: Any) -> None:
    ids = people(house, 3)
    rows = "Email;Mobile\nP2@Example.com;\n;07700 900001\nnobody@example.com;\nnot an address;\np2@example.com;\n"
    client: Client = signed_in(house.member)
    file = SimpleUploadedFile("some.csv", rows.encode())
    answer = client.post("/api/accounts/sailing/contacts/in-file", {"file": file}).json()
    assert answer == {"ids": [ids[1], ids[0]], "unknown": [4, 5]}
    bad = client.post("/api/accounts/sailing/contacts/in-file", {"file": SimpleUploadedFile("x.csv", b"Colour\nred\n")})
    assert bad.status_code == 422 and "Nobody was chosen" in bad.json()["detail"]
