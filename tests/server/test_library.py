"""The library of messages: one wording changed reaches every workflow that says it, nothing of the outbox, and only where all stands by it."""

import os
import subprocess
import sys
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from django.conf import settings
from django.test import Client
from launcher.database import app_url

from bluffside.core.workflow.files import parse_workflow, to_data
from bluffside.core.workflow.library import message_of
from bluffside.server.events.models import Event
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message
from bluffside.server.people import services as people
from bluffside.server.people import usages
from bluffside.server.practice import clock
from bluffside.server.segments.models import Segment
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, library, publishing_messages, writing
from bluffside.server.workflows.models import Enrolment, Workflow
from tests.core.examples import MONDAY
from tests.server.conftest import House
from tests.server.test_hooks import until

LINE: dict[str, Any] = {"id": "say", "kind": "email", "purpose": "service", "message": {"name": "x", "subject": "Soon", "body": "Old words"}}  # fmt: skip
JSON = "application/json"


def says(name: str, id: str = "say", **more: Any) -> dict[str, Any]:
    return LINE | {"id": id, "library": name} | more


def twice(house: House, name: str, **changes: Any) -> Workflow:
    """A workflow that says a message at once, and once more the day after."""
    wait = {"id": "wait", "kind": "wait", "duration": "1 day"}
    steps = [says("Dates"), wait, says("Dates", "again")]
    return house.workflow(name=name, starts=[{"kind": "by_hand"}], steps=steps, hours=None, leaves_on=[], **changes)


def dates(house: House) -> Workflow:
    line = parse_workflow({"name": "x", "steps": [LINE]}).steps[0]
    return publishing_messages.keep(house.sailing, "Dates", line, house.consultant)  # type: ignore[arg-type]


def write(row: Workflow, house: House, **message: str) -> Workflow:
    data = to_data(writing.draft_of(row))
    data["steps"][0]["message"] |= message
    return writing.save_draft(row, parse_workflow(data), row.revision, house.consultant)


def test_one_wording_changed_reaches_three_workflows_and_nothing_of_the_outbox(house: House) -> None:
    with clock.at(MONDAY) as move_to:
        message = dates(house)
        workflows = [twice(house, f"W{n}") for n in range(3)]
        for n, workflow in enumerate(workflows):
            enrolling.enrol(workflow, [house.contact(n + 1).pk], "by hand", Cause())
        until_quiet()
        assert {one.to_come for one in library.said_where(house.sailing)["Dates"]} == {1}
        message = write(message, house, body="New words", subject="Sooner")
        assert writing.unpublished_changes(message) and not writing.unpublished_changes(workflows[0])
        publishing_messages.publish(message, message.revision, house.consultant)
        move_to(MONDAY + timedelta(days=1, minutes=5))
        until_quiet()
        said = list(Message.objects.order_by("id").values_list("subject", "body", "name"))
        assert said == [("Soon", "Old words", "Dates")] * 3 + [("Sooner", "New words", "Dates")] * 3
        assert set(Enrolment.objects.values_list("version__number", "version__document__steps__0__message__body")) == {(1, "Old words")}  # fmt: skip
        assert writing.draft_of(workflows[0]).steps[0].message.body == "New words"  # type: ignore[attr-defined]
        assert [row.version_id for row in Enrolment.objects.exclude(ended_at=None)] == [
            w.published_id for w in workflows
        ]


def test_words_that_a_workflow_cannot_stand_by_are_not_published(
    house: House, signed_in: Callable[..., Client]
) -> None:
    message = dates(house)
    expects = [{"name": "Goes by email", "expect": [{"sent": "Dates", "by": "email", "on_day": 0}]}]
    twice(house, "Asks for it", scenarios=expects)
    other = parse_workflow({"name": "Dates", "steps": [LINE | {"kind": "text", "message": {"body": "By text"}}]})
    message = writing.save_draft(message, other, message.revision, house.consultant)
    client, api = signed_in(house.consultant), f"/api/accounts/{house.sailing.slug}/messages/{message.pk}"
    plan = client.get(f"{api}/publish").json()
    assert [one["workflow"] for one in plan["objections"]] == ["Asks for it"] and plan["errors"] == []
    assert "“Goes by email” would not come true" in plan["objections"][0]["why"]
    refused = client.post(f"{api}/publish", {"revision": plan["revision"]}, JSON)
    assert refused.status_code == 422 and refused.json()["detail"].startswith("Not published. “Asks for it” says this")
    assert client.get(api).json()["version"] == 1
    assert library.words_of(house.sailing.pk)["Dates"].kind == "email"


def test_a_message_has_another_name_everywhere_at_once(house: House, signed_in: Callable[..., Client]) -> None:
    """In scripts that run, in what starts by it, in segments, in what has happened; who is inside goes on."""
    with clock.at(MONDAY) as move_to:
        message = dates(house)
        workflow = twice(house, "Says it")
        clicks = house.workflow(name="Clicks", starts=[{"kind": "link_clicked", "message": "Dates"}], hours=None)
        sent = {"test": "message", "message": "Dates", "yes": True}
        segment = Segment.objects.create(account=house.sailing, name="Had it", condition=sent, made_at=MONDAY)
        enrolling.enrol(workflow, [house.contact(1).pk], "by hand", Cause())
        until_quiet()
        client, api = signed_in(house.consultant), f"/api/accounts/{house.sailing.slug}/messages"
        taken = client.put(f"{api}/{message.pk}", {"name": " ", "labels": []}, JSON)
        assert taken.json()["faults"] == {"name": "A message needs a name."}
        client.put(f"{api}/{message.pk}", {"name": "Spring dates", "labels": ["season", "season"]}, JSON)
        named = client.get(f"{api}/{message.pk}").json()
        assert (named["name"], named["labels"], named["figures"]["sent"]) == ("Spring dates", ["season"], 1)
        assert [(one["name"], one["to_come"]) for one in named["said_by"]] == [("Says it", 1)]
        segment.refresh_from_db()
        assert segment.condition["message"] == "Spring dates"
        assert Event.objects.get(kind="message.sent").data["message"] == "Spring dates"
        assert clicks.starts.get().subject == "Spring dates"
        assert {one.place for one in usages.uses(house.sailing) if one.name == "Dates"} == set()
        move_to(MONDAY + timedelta(days=1, minutes=5))
        until_quiet()
        assert list(Message.objects.values_list("name", "body")) == [("Spring dates", "Old words")] * 2


def test_a_line_is_kept_and_only_one_line_that_speaks_is_a_message(
    house: House, signed_in: Callable[..., Client]
) -> None:
    client, api = signed_in(house.consultant), f"/api/accounts/{house.sailing.slug}"
    made = client.post(f"{api}/messages/keep", {"name": "Dates", "line": LINE}, JSON)
    assert made.status_code == 201 and made.json()["line"]["message"]["body"] == "Old words"
    again = client.post(f"{api}/messages/keep", {"name": "dates", "line": LINE}, JSON)
    assert "There is a message “dates” already" in again.json()["faults"]["name"]
    wait = {"id": "w", "kind": "wait", "duration": "1 day"}
    assert client.post(f"{api}/messages/keep", {"name": "A wait", "line": wait}, JSON).status_code == 422
    empty = LINE | {"message": {"name": "x", "subject": "", "body": ""}}
    assert (
        "has no words yet"
        in client.post(f"{api}/messages/keep", {"name": "Empty", "line": empty}, JSON).json()["detail"]
    )
    rows = {one["name"]: one["id"] for one in client.get(f"{api}/messages").json()}
    assert set(rows) == {"Dates"}, "what could not be kept is not there"
    document = client.get(f"{api}/workflows/{rows['Dates']}").json()
    two = document["document"] | {"steps": [LINE, wait]}
    kept = client.put(
        f"{api}/workflows/{rows['Dates']}/draft", {"document": two, "revision": document["revision"]}, JSON
    )
    assert kept.status_code == 422 and "one line that speaks" in kept.json()["detail"]
    assert client.post(f"{api}/workflows/{rows['Dates']}/door/close").status_code == 404, "it is no script"
    assert [one["name"] for one in client.get(f"{api}/workflows").json()] == []
    other = f"/api/accounts/{house.pottery.slug}"
    assert (
        client.get(f"{other}/messages").json() == []
        and client.get(f"{other}/messages/{rows['Dates']}").status_code == 404
    )
    assert signed_in(house.member).post(f"{api}/messages", {"name": "N", "kind": "text"}, JSON).status_code == 403


def test_a_line_cannot_say_what_is_not_published(house: House) -> None:
    line = parse_workflow({"name": "x", "steps": [LINE]}).steps[0]
    publishing_messages.create(house.sailing, "Dates", line, house.consultant)  # type: ignore[arg-type]
    with pytest.raises(writing.CannotPublish, match="“Dates” of the library is not published"):
        twice(house, "Too early")


def test_a_message_is_written_once_to_some_people_and_looking_at_it_keeps_nothing(
    house: House, signed_in: Callable[..., Client]
) -> None:
    with clock.at(MONDAY):
        message, people = dates(house), [house.contact(n).pk for n in (1, 2)]
        draft = publishing_messages.create(
            house.sailing, "Later", message_of(writing.draft_of(message)), house.consultant
        )  # type: ignore[arg-type]
        client, api = signed_in(house.consultant), f"/api/accounts/{house.sailing.slug}/messages"
        to = {"who": {"ids": people}}
        plan = client.post(f"{api}/{message.pk}/once/plan", to, JSON).json()
        assert (plan["joining"], plan["problem"]) == (2, "")
        assert "“Later” is not published yet" in client.post(f"{api}/{draft.pk}/once/plan", to, JSON).json()["problem"]
        assert client.post(f"{api}/{draft.pk}/once", to, JSON).status_code == 422
        assert not Workflow.objects.exists() and client.get(f"{api}/once").json() == []
        assert signed_in(house.member).post(f"{api}/{message.pk}/once", to, JSON).status_code == 403
        client = signed_in(house.consultant)
        assert client.post(f"{api}/{message.pk}/once", to, JSON).json()["total"] == 2
        until_quiet()
        assert list(Message.objects.values_list("body", "name")) == [("Old words", "Dates")] * 2
        [row] = client.get(f"{api}/once").json()
        assert (row["name"], row["message"], row["to"], row["sent"], row["answered"]) == (
            "Dates, 2 March",
            "Dates",
            2,
            2,
            0,
        )
        assert client.get(f"/api/accounts/{house.sailing.slug}/workflows").json() == [], "it is no workflow of theirs"
        assert client.get(f"{api}/{message.pk}").json()["figures"]["sent"] == 2


def test_who_of_those_still_to_read_it_lacks_a_field_is_said_by_name(
    house: House, signed_in: Callable[..., Client]
) -> None:
    """By what is written of the message now, among those whose way still leads by it; not among those who had it."""
    with clock.at(MONDAY) as move_to:
        message = dates(house)
        workflow = twice(house, "Says it")
        for n in (1, 2):
            enrolling.enrol(workflow, [house.contact(n).pk], "by hand", Cause())
        people.change_contact(house.sailing.contacts.get(first_name="P2"), {"last_name": "Vane"}, Cause())
        until_quiet()
        words = '{{ contact.first_name | default: "you" }} {{ contact.last_name }} {{ account.phone }}'
        write(message, house, body=words, subject="For {{ contact.last_name }}")
        client, api = (
            signed_in(house.consultant),
            f"/api/accounts/{house.sailing.slug}/workflows/{message.pk}/lacking/message",
        )
        told = client.get(api).json()
        assert told["of"] == 2
        assert {one["field"]: (one["lack"], one["names"], one["words"]) for one in told["fields"]} == {
            "last name": (1, ["P1"], None),
            "business phone": (
                2 if not house.sailing.phone else 0,
                ["P1", "P2 Vane"] if not house.sailing.phone else [],
                None,
            ),
            "first name": (0, [], "you"),
        }
        lines = f"/api/accounts/{house.sailing.slug}/workflows/{workflow.pk}/lacking"
        of = {step: client.get(f"{lines}/{step}").json()["of"] for step in ("say", "again", "nowhere")}
        assert of == {"say": 2, "again": 2, "nowhere": 0}, "whoever of them reads it, here or elsewhere"
        own = to_data(writing.draft_of(workflow))
        own["steps"] = [one | {"library": ""} for one in own["steps"] if one["kind"] != "wait"]
        writing.save_draft(workflow, parse_workflow(own), workflow.revision, house.consultant)
        of = {step: client.get(f"{lines}/{step}").json()["of"] for step in ("say", "again")}
        assert of == {"say": 0, "again": 2}, "its own words are read where that line is still to come"
        move_to(MONDAY + timedelta(days=1, minutes=5))
        until_quiet()
        assert client.get(api).json()["of"] == 0, "they have read it"


def test_words_are_replaced_in_the_drafts_that_are_ticked_and_nothing_is_published(
    house: House, signed_in: Callable[..., Client]
) -> None:
    message = dates(house)
    letter = {"lines": [{"id": "p", "kind": "paragraph", "words": "Old boats, {{ contact.first_name }}"}, {"id": "b", "kind": "button", "words": "See the old", "leads_to": "https://old.example.com"}]}  # fmt: skip
    line = LINE | {"message": {"name": "x", "subject": "x", "letter": letter}}
    other = publishing_messages.create(
        house.sailing,
        "Boats",
        parse_workflow({"name": "x", "steps": [line]}).steps[0],
        house.consultant,  # type: ignore[arg-type]
    )
    Workflow.written.filter(pk=other.pk).update(labels=["season"])
    client, api = signed_in(house.consultant), f"/api/accounts/{house.sailing.slug}/messages/replace"
    asked: dict[str, Any] = {"find": "old", "by": "new"}
    plan = client.post(f"{api}/plan", asked, JSON).json()
    assert {one["name"]: [text["after"] for text in one["texts"]] for one in plan} == {
        "Boats": ["New boats, {{ contact.first_name }}", "See the new"],
        "Dates": ["New words"],
    }
    assert [one["name"] for one in client.post(f"{api}/plan", asked | {"label": "season"}, JSON).json()] == ["Boats"]
    assert client.post(api, asked | {"only": [message.pk]}, JSON).json() == {"changed": 1}
    message.refresh_from_db()
    assert message_of(writing.draft_of(message)).message.body == "New words"  # type: ignore[union-attr]
    assert library.words_of(house.sailing.pk)["Dates"].message.body == "Old words"  # type: ignore[attr-defined]
    assert client.post(api, asked | {"only": [other.pk]}, JSON).json() == {"changed": 1}
    other.refresh_from_db()
    assert "https://old.example.com" in writing.draft_of(other).model_dump_json() and "{{ contact.first_name }}" in writing.draft_of(other).model_dump_json()  # fmt: skip
    assert signed_in(house.member).post(api, asked | {"only": [other.pk]}, JSON).status_code == 403


def test_the_next_messages_are_made_all_or_none_with_a_script_that_says_one_a_week(
    house: House, signed_in: Callable[..., Client]
) -> None:
    with clock.at(MONDAY) as move_to:
        message = write(
            dates(house),
            house,
            subject="Week one",
            body="The first of April, {{ contact.first_name | default: 'you' }}",
        )
        message.labels = ["season"]
        message.save()
        client, api = signed_in(house.consultant), f"/api/accounts/sailing/messages/{message.pk}/next"
        words = "Week one\tApril\nWeek two\tMay\nWeek three\tJune"
        plan = client.post(f"{api}/plan", {"words": words}, JSON).json()
        assert [one["name"] for one in plan] == ["Dates, Week two", "Dates, Week three"] and not any(
            one["fault"] for one in plan
        )
        assert plan[1]["texts"][0]["after"] == "The first of June, {{ contact.first_name | default: 'you' }}"
        faulty = client.post(api, {"words": "Week one;April\nWeek two"}, JSON)
        assert faulty.status_code == 422 and "Line 2" in faulty.json()["faults"]["words"]
        asked = {"words": words, "publish": True, "script": "Spring", "first": "2026-03-03", "days": 7, "at": "10:00"}
        made = client.post(api, asked, JSON)
        assert made.status_code == 201 and made.json()["made"] == 2
        again = client.post(api, asked, JSON)
        assert (
            again.status_code == 422 and "already" in again.json()["faults"]["words"] and Workflow.written.count() == 4
        )
        assert client.get("/api/accounts/sailing/messages").json()[1]["labels"] == ["season"]
        script = Workflow.objects.get(pk=made.json()["script"])
        assert (
            script.published is None
            and [step.kind for step in writing.draft_of(script).steps] == ["on_date", "email"] * 2
        )
        writing.publish(script, script.revision, house.consultant)
        script.refresh_from_db()
        enrolling.enrol(script, [house.contact(1).pk], "by hand", Cause())
        for day in (0, 2, 9):
            move_to(MONDAY + timedelta(days=day))
            until_quiet()
        assert list(Message.objects.order_by("id").values_list("subject", "body")) == [
            ("Week two", "The first of May, P1"), ("Week three", "The first of June, P1")
        ]  # fmt: skip


def test_a_worker_that_has_said_the_old_words_says_the_new_ones_once_they_are_published(
    committed_house: House, owner_url: str
) -> None:
    """Another process, which keeps what it has read of versions."""
    house = committed_house
    message, workflow = dates(house), twice(house, "Says it")
    env = os.environ | {"DATABASE_URL": app_url(owner_url), "PYTHONPATH": str(settings.ROOT / "src")}
    worker = subprocess.Popen([sys.executable, "-m", "django", "work"], env=env, cwd=settings.ROOT)
    try:
        for number, words in enumerate(("Old words", "New words"), start=1):
            if number == 2:
                message = write(message, house, body=words)
                publishing_messages.publish(message, message.revision, house.consultant)
            contact = house.contact(number)
            enrolling.enrol(workflow, [contact.pk], "by hand", Cause())
            until(lambda contact=contact: Message.objects.filter(contact=contact, sent_at__isnull=False).exists(), 30)  # type: ignore[misc]
            assert Message.objects.get(contact=contact).body == words
    finally:
        worker.kill()
        worker.wait()
