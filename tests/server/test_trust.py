"""Trust before, control after: rehearsing for the account, the series to oneself, what is to come, and a hundred people."""

from collections import Counter
from datetime import datetime, timedelta
from io import BytesIO
from random import Random
from typing import Any

from django.utils import timezone
from pypdf import PdfReader

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
from bluffside.server.workflows.models import Enrolment
from bluffside.starters import starters
from tests.core.examples import ASK
from tests.server.bringing import people, who
from tests.server.conftest import NOON, House

DAY = timedelta(days=1)
WEEKDAYS = {"weekdays": ["mon", "tue", "wed", "thu", "fri"]}


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
