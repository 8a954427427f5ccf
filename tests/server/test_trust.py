"""Trust before, control after: rehearsing for the account, bringing people in by hand, handling those inside, and why."""

from collections import Counter
from datetime import UTC, date, datetime, timedelta
from io import BytesIO
from random import Random
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import Client
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pypdf import PdfReader

from bluffside.core.care.trickle import Trickle
from bluffside.core.engine.state import SECOND_THOUGHTS
from bluffside.core.timing.local import to_local
from bluffside.core.workflow.document import walk
from bluffside.server import moving_the_clock
from bluffside.server.diary.models import Task
from bluffside.server.messaging.models import Message, OwnCopy
from bluffside.server.outside.models import Item
from bluffside.server.outside.services import say
from bluffside.server.practice import clock
from bluffside.server.practice.models import WorkerSeen
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import handling, intakes, signals, writing
from bluffside.server.workflows.forecast import forecast
from bluffside.server.workflows.models import Enrolment, Intake
from bluffside.starters import starters
from tests.core.examples import ASK
from tests.server.conftest import NOON, House

DAY = timedelta(days=1)
WEEKDAYS = {"weekdays": ["mon", "tue", "wed", "thu", "fri"]}


def people(house: House, count: int) -> list[int]:
    """Numbers that end in 99 are those the simulated carrier does not know."""
    numbers = [number for number in range(1, count + 2) if number % 100 != 99]
    return [house.contact(number).id for number in numbers[:count]]


def who(ids: list[int]) -> dict[str, Any]:
    return {"who": {"ids": ids}}


def days_joined(zone: str) -> Counter[date]:
    return Counter(to_local(row.joined_at, zone).date() for row in Enrolment.objects.all())


# ---- bringing people in


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


# ---- handling those inside


def test_people_are_paused_resumed_let_on_moved_and_taken_out_with_their_reasons_kept(api: Any, house: House) -> None:
    workflow = house.workflow()
    ada, ben, cai = people(house, 3)
    with clock.at(NOON) as move_to:
        api("POST", f"workflows/{workflow.id}/intakes", who([ada, ben, cai]))
        until_quiet()
        _, watch = api("GET", f"workflows/{workflow.id}/watch?step=answer")
        inside = {row["contact_id"]: row["id"] for row in watch["enrolments"]}

        def act(did: str, contact: int, **more: Any) -> Any:
            return api("POST", f"workflows/{workflow.id}/inside/{did}", {"ids": [inside[contact]]} | more)

        assert act("pause", ada, why="Away on a voyage.") == (200, {"count": 1})
        assert act("skip", ben)[1] == {"count": 1}
        assert act("move", cai, to="hello")[1] == {"count": 1}
        assert act("move", cai, to="nowhere")[0] == 409
        until_quiet()
        texts = Counter(Item.objects.filter(channel="text").values_list("theirs", flat=True))
        assert texts == {"+447700900001": 1, "+447700900002": 1, "+447700900003": 2}  # cai got the first again
        assert Message.objects.filter(contact_id=ben, name="Ways").exists()  # ben's wait ended unanswered

        say(house.sailing.contacts.get(id=ada), "text", "yes")  # it waits until she goes on
        moving_the_clock.run_through(NOON + 9 * DAY, move_to)
        assert Enrolment.objects.get(contact_id=ada).place == "answer"
        assert act("resume", ada)[1] == {"count": 1}
        until_quiet()
        assert Task.objects.filter(contact_id=ada, step="ring").exists()  # “yes” came first, the limit after it
        act("pause", ada)
        assert act("take-out", ada, why="moved away")[1] == {"count": 1}
        until_quiet()  # who is paused can be taken out, and nothing that is due happens on the way
    assert Enrolment.objects.get(contact_id=ada).ended == "moved away"
    _, story = api("GET", f"contacts/{ada}/story")
    said = [item["sentence"] for item in story]
    assert "Paused by Imogen F. Away on a voyage." in said and "Goes on, by Imogen F." in said
    assert "Taken out: moved away." in said


def test_everything_of_one_contact_is_paused_at_once(api: Any, house: House) -> None:
    contact = house.contact()
    for name in ("First", "Second"):
        workflow = house.workflow(name=name)
        api("POST", f"workflows/{workflow.id}/intakes", who([contact.id]))
    assert api("POST", f"contacts/{contact.id}/workflows/pause", {})[1] == {"count": 2}
    until_quiet()
    assert not Message.objects.exists()
    assert api("POST", f"contacts/{contact.id}/workflows/resume", {})[1] == {"count": 2}
    until_quiet()
    assert Message.objects.count() == 2


def test_numbers_open_to_people_and_held_messages_go_one_by_one_or_together(api: Any, house: House) -> None:
    hello = ASK["steps"][0] | {"held": True}
    workflow = house.workflow(steps=[hello, *ASK["steps"][1:]])
    ids = people(house, 4)
    with clock.at(NOON):
        api("POST", f"workflows/{workflow.id}/intakes", who(ids))
        until_quiet()
        assert not Item.objects.exists()
        _, held = api("GET", f"workflows/{workflow.id}/held")
        assert [row["contact_id"] for row in held] == ids
        assert api("POST", f"workflows/{workflow.id}/held", {"ids": [held[0]["id"]], "did": "drop"})[1] == {"count": 1}
        assert api("POST", f"workflows/{workflow.id}/held", {"did": "let_go"})[1] == {"count": 3}
        say_out = house.sailing.contacts.get(id=ids[3])
        until_quiet()
        say(say_out, "text", "STOP")
        until_quiet()
    assert Item.objects.filter(channel="text", inbound=False, text__startswith="Hi").count() == 3
    _, watch = api("GET", f"workflows/{workflow.id}/watch")
    numbers = {one["step"]: (one["here"], one["passed"], one["left"]) for one in watch["lines"]}
    assert numbers == {"hello": (0, 4, 0), "answer": (2, 1, 0), "bye": (0, 0, 1), "pause": (1, 0, 0)}
    assert (watch["held"], watch["ended"]) == (0, 1)
    _, left = api("GET", f"workflows/{workflow.id}/watch?step=bye&number=left")
    assert [row["contact_id"] for row in left["enrolments"]] == [ids[3]]


def test_who_is_stuck_is_found(api: Any, house: House) -> None:
    workflow = house.workflow()
    api("POST", f"workflows/{workflow.id}/intakes", who(people(house, 3)))
    until_quiet()
    first, second, _ = Enrolment.objects.order_by("id")
    Enrolment.objects.filter(id=first.id).update(fault="something broke", due_at=None)
    Enrolment.objects.filter(id=second.id).update(due_at=clock.now() - timedelta(hours=1))
    _, watch = api("GET", f"workflows/{workflow.id}/watch?only=stuck")
    assert watch["stuck"] == 2 and {row["id"] for row in watch["enrolments"]} == {first.id, second.id}


# ---- why, and why not


def why_not(api: Any, contact: int, workflow: Any, step: str = "") -> list[str]:
    _, found = api("GET", f"contacts/{contact}/why-not?workflow_id={workflow.id}&step={step}")
    return [one["sentence"] for one in found]


def test_why_somebody_did_not_get_it_is_answered_from_what_was_written_down(api: Any, house: House) -> None:
    workflow = house.workflow(entry={"who": {"test": "tag", "tag": "adult"}})
    never, waits, went, silent = people(house, 4)
    api("POST", "contacts/tag", {"who": {"ids": [waits, went, silent]}, "tag": "adult"})
    with clock.at(NOON) as move_to:
        api("POST", f"workflows/{workflow.id}/intakes", who([never, waits, went, silent]))
        until_quiet()
        out = why_not(api, never, workflow)
        assert out[0] == "P1 never came into “Ask about the taster day”."
        assert "The entry rules keep them out now: only who has the tag “adult”." in out
        assert any("It starts when someone is tagged" in one and "That is not so" in one for one in out)
        still = why_not(api, waits, workflow, "ring")
        assert still[0] == "It has not been the turn of this line yet."
        assert (
            still[1].startswith("They are inside: Has 72 hours to answer., until Thu 5 Mar") or "72 hours" in still[1]
        )
        say(house.sailing.contacts.get(id=went), "text", "no")
        until_quiet()
        moving_the_clock.run_through(clock.now() + SECOND_THOUGHTS, move_to)
        left = why_not(api, went, workflow, "ring")
        assert left[0].startswith("They left before this line:")
        assert any("Takes the lane" in one and "no" in one for one in left)
        moving_the_clock.run_through(NOON + 4 * DAY, move_to)
        other_lane = why_not(api, silent, workflow, "ring")
        assert other_lane[0] == "This line does not come for them any more."
        assert any("Said nothing" in one for one in other_lane)
        got = why_not(api, silent, workflow, "mail")
        assert got[0].startswith("Email “Ways”")
        house.sailing.contacts.filter(id=silent).update(mobile="")
    writing.set_open(workflow, False, house.consultant)
    assert "It is closed to newcomers." in why_not(api, never, workflow)
    _, [mine] = api("GET", f"contacts/{silent}/enrolments")
    _, story = api("GET", f"contacts/{silent}/story")
    message = next(item for item in story if item["kind"] == "message")
    assert (message["enrolment"], message["step"]) == (mine["id"], "mail")  # one step from it to its reasons


def test_why_somebody_who_had_no_number_was_passed_over(api: Any, house: House) -> None:
    contact, workflow = house.contact(), house.workflow()
    house.sailing.contacts.update(mobile="")
    api("POST", f"workflows/{workflow.id}/intakes", who([contact.id]))
    until_quiet()
    assert "no mobile number" in " ".join(why_not(api, contact.id, workflow, "hello"))


# ---- before: rehearsing for the account


def test_a_wait_offers_what_may_happen_and_the_rehearsal_is_kept_as_a_scenario_that_holds(
    api: Any, house: House
) -> None:
    contact = house.contact()
    given = {"document": ASK, "contact_id": contact.id, "start": "2026-03-06T18:00"}
    _, first = api("POST", "rehearse", given)
    assert [one["words"] for one in first["offers"]] == ["says “yes”", "says “no”", "says nothing"]
    given["answers"] = {"answer": {"act": first["offers"][0]["act"], "after": "3 hours"}}
    _, answer = api("POST", "rehearse/keep?name=Says yes", given)
    scenario = answer["scenario"]
    assert scenario["contact"]["first_name"] == "Robin" and scenario["events"][0]["reply"] == "yes"
    document = ASK | {"scenarios": [scenario]}
    _, verdicts = api("POST", "scenarios", document)
    assert verdicts["verdicts"][0]["failures"] == []
    assert set(verdicts["not_reached"]) == {"bye", "read", "mail"}
    _, played = api("POST", "rehearse", {"document": document, "scenario": "Says yes"})
    assert played["contact"] == "Robin Vane" if contact.last_name else played["ended"] == "came to the end"
    status, refused = api("POST", "rehearse", given | {"answers": {"answer": {"act": {"dance": "wildly"}}}})
    assert status == 422 and refused["detail"].startswith("That cannot happen")


def test_a_publish_that_breaks_a_scenario_says_so_and_asks(api: Any, house: House) -> None:
    _, answer = api("POST", "rehearse/keep?name=Silence", {"document": ASK, "start": "2026-03-06T18:00"})
    workflow = house.workflow(scenarios=[answer["scenario"]])
    broken = ASK | {"scenarios": [answer["scenario"]], "steps": ASK["steps"][1:]}
    _, saved = api("PUT", f"workflows/{workflow.id}/draft", {"document": broken, "revision": 1})
    _, plan = api("GET", f"workflows/{workflow.id}/publish")
    assert [one["name"] for one in plan["failing"]] == ["Silence"] and "“Hello”" in plan["failing"][0]["failures"][0]
    status, refused = api("POST", f"workflows/{workflow.id}/publish", {"revision": saved["revision"]})
    assert status == 422 and "“Silence” does not come true" in refused["detail"]
    status, _ = api("POST", f"workflows/{workflow.id}/publish", {"revision": saved["revision"], "despite": True})
    assert status == 200


def test_a_typical_few_show_the_ways_that_people_differ_in(api: Any, house: House) -> None:
    lanes = [
        {"id": "keen", "when": {"test": "tag", "tag": "keen"}, "steps": [{"kind": "tag", "id": "a", "tag": "a"}]},
        {"id": "rest", "when": None, "steps": [{"kind": "tag", "id": "b", "tag": "b"}]},
    ]
    document = ASK | {"steps": [{"kind": "choose", "id": "which", "lanes": lanes}]}
    ids = people(house, 6)
    api("POST", "contacts/tag", {"who": {"ids": ids[:2]}, "tag": "keen"})
    _, found = api("POST", "typical", {"document": document})
    assert [(row["alike"], row["shows"]) for row in found["rows"]] == [(3, ["b", "which"]), (1, ["a"])]
    assert (found["looked_at"], found["unseen"]) == (6, [])


def test_the_whole_series_comes_to_oneself_a_minute_apart_and_counts_nowhere(api: Any, house: House) -> None:
    workflow = house.workflow()
    house.consultant.phone = "+447700900999"
    house.consultant.save()
    given = {"document": ASK, "workflow_id": workflow.id, "apart": 60}
    with clock.at(NOON) as move_to:
        _, copies = api("POST", "own-copies", given)
        assert [(one["channel"], one["due"]) for one in copies["copies"]] == [
            ("text", "Mon 2 Mar, 12:00"),
            ("email", "Mon 2 Mar, 12:01"),
        ]
        until_quiet()
        _, mine = api("GET", "outside/mine")
        assert [one["text"] for one in mine["items"]] == [
            "Test: Hi Robin, dry again?\nYour choices: their link stands here"
        ]
        moving_the_clock.run_through(NOON + timedelta(minutes=5), move_to)
        _, mine = api("GET", "outside/mine")
        assert mine["items"][1]["subject"] == "Test: Three ways"
        api("POST", "own-copies", given)
        assert api("POST", "own-copies/stop")[1]["copies"][1:] == []
    assert not Message.objects.exists() and not Enrolment.objects.exists()


def test_a_copy_that_a_crash_cut_off_comes_once(house: House) -> None:
    """The carrier took it, and the worker died before it wrote that down: the key tells the carrier."""
    row = OwnCopy.objects.create(
        account=house.sailing, person=house.consultant, workflow_id=1, number=0, channel="email", name="Hello",
        body="Hi", due_at=NOON,
    )  # fmt: skip
    with clock.at(NOON):
        until_quiet()
        OwnCopy.objects.filter(id=row.id).update(due_at=NOON, gone_at=None)
        until_quiet()
    assert Item.objects.get().times_handed_over == 2


# ---- what is to come


def test_the_forecast_says_what_then_goes_out(api: Any, house: House) -> None:
    """Ten people who answer nothing: what was foreseen for each day is what went out on it."""
    workflow = house.workflow(hours={"start": "09:00", "end": "19:00"})
    ids = people(house, 10)
    with clock.at(NOON) as move_to:
        api("POST", f"workflows/{workflow.id}/intakes", who(ids[:6]))
        move_to(NOON + 6 * timedelta(hours=1))
        api("POST", f"workflows/{workflow.id}/intakes", who(ids[6:]) | {"begin": "2026-03-02T20:00"})
        move_to(NOON + 9 * timedelta(hours=1))
        until_quiet()
        foreseen = forecast(house.sailing, NOON + 8 * DAY)
        _, diary = api("GET", "diary?start=2026-03-02&days=9")
        before = set(Message.objects.values_list("id", flat=True))
        moving_the_clock.run_through(NOON + 8 * DAY, move_to)
    went = Counter(
        (to_local(one.queued_at, "Europe/London").date(), one.name) for one in Message.objects.exclude(id__in=before)
    )
    assert Counter({(row.day, row.name): row.count for row in foreseen.rows if row.channel}) == went
    by_day = {day["day"]: sum(row["count"] for row in day["outlook"]) for day in diary["days"]}
    assert sum(by_day.values()) == sum(went.values()) and by_day["2026-03-06"]


def test_letters_are_printed_one_to_a_page(house: House, signed_in: Any) -> None:
    for number in (1, 2):
        contact = house.contact(number)
        contact.post = f"{number} Quay Street, Port Example"
        contact.save()
        Task.objects.create(
            account=house.sailing, contact=contact, key=f"k{number}", kind="letter", title="Welcome",
            say=f"Dear P{number},\nwelcome aboard.", due_at=NOON, made_at=NOON,
        )  # fmt: skip
    with clock.at(NOON + DAY):
        answer = signed_in(house.member).get("/api/accounts/sailing/letters.pdf")
    pages = PdfReader(BytesIO(answer.content)).pages
    assert len(pages) == 2
    assert "2 Quay Street" in pages[1].extract_text() and "welcome aboard" in pages[1].extract_text()


def test_consent_and_the_order_of_channels_are_noted_with_how_it_is_known(api: Any, house: House) -> None:
    contact = house.contact()
    said = {"channel": "text", "given": False, "evidence": "asked on the phone"}
    assert api("POST", f"contacts/{contact.id}/consent", said)[1]["opted_out"] == ["text"]
    assert api("POST", f"contacts/{contact.id}/consent", said | {"evidence": "  "})[0] == 422
    _, row = api("PUT", f"contacts/{contact.id}/channels", {"channels": ["email", "text", "email"]})
    assert row["channel_order"] == ["email", "text"]
    _, story = api("GET", f"contacts/{contact.id}/story")
    assert "asked on the phone (noted by Imogen F)" in [item["detail"] for item in story]


def test_an_open_page_hears_whether_a_worker_lives(house: House, signed_in: Any) -> None:
    client = signed_in(house.consultant)
    assert client.get("/api/accounts/sailing/pulse").json()["working"] is False
    seen = WorkerSeen.objects.create(name="here 1", began_at=timezone.now(), seen_at=timezone.now())
    assert client.get("/api/accounts/sailing/pulse").json()["working"] is True
    WorkerSeen.objects.update(seen_at=seen.seen_at - timedelta(minutes=1))
    assert client.get("/api/accounts/sailing/pulse").json()["working"] is False


def test_who_left_meanwhile_is_let_be(house: House) -> None:
    workflow = house.workflow()
    row_of = dict.fromkeys(people(house, 2))
    with clock.at(NOON):
        intakes.start(workflow, list(row_of), house.consultant, NOON)
        until_quiet()
        first, second = Enrolment.objects.order_by("id").select_related("workflow", "account")
        signals.take_out(first, "gone", house.consultant)
        until_quiet()
        assert handling.skip(house.sailing, [first.id, second.id], "", house.consultant) == 1


def test_a_hundred_people_in_six_texts_and_who_answers_gets_no_further_text(house: House) -> None:
    """The starter for an old list, lived through on the real engine; the answers come at moments spread over it."""
    document = starters()["old-list"]
    made = writing.create(house.sailing, document, house.consultant)
    version = writing.publish(made, made.revision, house.consultant)
    workflow = version.workflow
    ids = people(house, 100)
    chance = Random(6)
    answers = {id: NOON + chance.random() * 40 * DAY for id in chance.sample(ids, 60)}
    words = ["Yes please", "no", "Who is this?", "STOP", "maybe later"]
    answered: dict[int, datetime] = {}
    with clock.at(NOON) as move_to:
        intakes.start(workflow, ids, house.consultant, NOON)
        for id, at in sorted(answers.items(), key=lambda one: one[1]):
            moving_the_clock.run_through(at, move_to)
            contact = house.sailing.contacts.get(id=id)
            if Item.objects.filter(theirs=contact.mobile).exists():
                say(contact, "text", chance.choice(words))
                until_quiet()
                answered[id] = at
        moving_the_clock.run_through(NOON + 120 * DAY, move_to)
    texts = Message.objects.filter(channel="text", enrolment_id__isnull=False)
    silent = [id for id in ids if id not in answered]
    assert len(answered) > 40
    by_contact = Counter(texts.values_list("contact_id", flat=True))
    assert {by_contact[id] for id in silent} == {6}
    script = [step.message.name for step in walk(document.steps) if step.kind == "text"]
    series = [name for name in script if texts.filter(contact_id=silent[0], name=name).exists()]
    assert len(series) == 6
    for id, at in answered.items():  # of the six; a lane may say thank you
        assert not texts.filter(contact_id=id, name__in=series, queued_at__gt=at).exists()
    assert not Enrolment.objects.filter(ended_at=None).exists()
