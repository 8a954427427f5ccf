"""The workflow page's API: reading aloud, preview, rehearsal, drafts, files, the plan of publishing and of enrolling."""

import json
from datetime import timedelta
from typing import Any

import pytest

from bluffside.server import moving_the_clock
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message
from bluffside.server.outside.models import Item
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.models import Enrolment, Workflow
from tests.core.examples import ASK
from tests.server.conftest import NOON, House


def test_a_draft_is_read_aloud_with_its_times_and_checks(api: Any) -> None:
    status, data = api("POST", "read", {"document": ASK, "start": "2026-03-02T09:00"})
    assert status == 200
    reading = data["reading"]
    assert reading["summary"].startswith(
        "Starts when someone is tagged taster or when someone is enrolled by hand. Over 5 days"
    )
    lines = {line["step"]: line for line in reading["lines"]}
    assert lines["hello"]["acts"] == {"day": 0, "last_day": 0, "at": "2026-03-02T09:00", "last_at": "2026-03-02T09:00"}
    assert lines["answer"]["headings"]["yes"] == "answers yes, keen"
    assert (lines["answer"]["waits"], lines["pause"]["waits"], lines["hello"]["waits"]) == ("answer", "time", "")
    assert {check["code"] for check in reading["checks"]} == {"any-hour", "no-such-tag"}


def test_a_malformed_draft_is_refused_with_its_place_and_nothing_changes(api: Any, house: House) -> None:
    workflow = house.workflow()
    bad = ASK | {"steps": [{"kind": "wait", "id": "a", "duration": "soon"}]}
    status, data = api("PUT", f"workflows/{workflow.id}/draft", {"document": bad, "revision": 1})
    assert status == 422
    assert "document.steps.0.duration: “soon”" in data["detail"] and "write one like" in data["detail"]
    assert Workflow.objects.get().draft == workflow.draft


def test_a_draft_is_kept_and_a_stale_one_refused(api: Any, house: House) -> None:
    workflow = house.workflow()
    status, saved = api("PUT", f"workflows/{workflow.id}/draft", {"document": ASK | {"name": "New"}, "revision": 1})
    assert (status, saved["revision"], saved["changes"]) == (200, 2, ["Is now called “New”."])
    status, _ = api("PUT", f"workflows/{workflow.id}/draft", {"document": ASK | {"name": "Older"}, "revision": 1})
    assert status == 409
    assert Workflow.objects.get().name == "New"


def test_a_rehearsal_reads_a_real_contact_and_changes_nothing(api: Any, house: House) -> None:
    contact = house.contact(7)
    given = {"document": ASK, "contact_id": contact.id, "start": "2026-03-02T09:00"}
    _, first = api("POST", "rehearse", given)
    assert (first["awaits"], first["contact"]) == ("answer", "P7")
    _, second = api(
        "POST", "rehearse", given | {"answers": {"answer": {"act": {"reply": "Keen!"}, "after": "2 hours"}}}
    )
    assert (second["awaits"], second["tags"], second["ended"]) == ("", ["wants a course"], "came to the end")
    texts = [message["body"] for line in second["lines"] for message in line["messages"]]
    assert texts == ["Hi P7, dry again?"]
    assert not Message.objects.exists() and not Contact.objects.filter(tagged__isnull=False).exists()


def test_a_rehearsal_can_have_the_appointment_moved_or_cancelled_and_is_kept_so(api: Any) -> None:
    """Two days before, then two hours before; it moves after the first has gone: both come again for the new date."""
    lines = [
        {"kind": "around", "id": "days", "offset": "2 days", "type": "Survey"},
        {
            "kind": "text",
            "id": "first",
            "purpose": "service",
            "message": {"name": "In two days", "body": "In two days"},
        },
        {"kind": "around", "id": "hours", "offset": "2 hours", "type": "Survey"},
        {"kind": "text", "id": "second", "purpose": "service", "message": {"name": "In two hours", "body": "Soon"}},
    ]
    document = {"name": "Reminders", "steps": lines, "leaves_on": []}

    def played(*moves: dict[str, Any], **more: Any) -> tuple[Any, list[tuple[int, str]]]:
        given = {"document": document, "start": "2026-03-02T09:00", "moves": moves} | more
        status, said = api("POST", "rehearse", given)
        assert status == 200, said
        return said, [(line["day"], message["name"]) for line in said["lines"] for message in line["messages"]]

    said, sent = played()
    assert (said["dates"]["types"], said["dates"]["appointments"], sent) == (["Survey"], [], [])
    one = {"invented": {"appointment": {"type": "Survey", "start": said["dates"]["suggested"]}}}
    said, sent = played(**one)
    assert sent == [(3, "In two days"), (5, "In two hours")]
    move = {"type": "Survey", "after": "4 days", "to": "2026-03-11T10:00"}
    said, sent = played(move, **one)
    assert sent == [(3, "In two days"), (7, "In two days"), (9, "In two hours")]
    assert any("Planned anew" in reason for line in said["lines"] for reason in line["reasons"])
    assert played(move | {"to": None}, **one)[1] == [(3, "In two days")]
    given = {"document": document, "start": "2026-03-02T09:00", "moves": [move], **one}
    _, kept = api("POST", "rehearse/keep?name=moves", given)
    assert [(act["move"], act["at"]) for act in kept["scenario"]["events"]] == [("Survey", "2026-03-06T09:00:00")]
    _, verdicts = api("POST", "scenarios", document | {"scenarios": [kept["scenario"]]})
    assert verdicts["verdicts"][0]["failures"] == []


def test_a_preview_counts_parts_and_says_what_cannot_be_read(api: Any) -> None:
    _, data = api("POST", "preview", {"body": "Hi {{ contact.first_name }} ⛵"})
    assert (data["body"], data["parts"], data["alphabet"]) == ("Hi Robin ⛵", 1, "UCS-2")
    _, data = api("POST", "preview", {"body": "Hi {{ contact.first_name"})
    assert data["fault"].startswith("This cannot be read")


@pytest.mark.parametrize("kind", ["yaml", "json"])
def test_a_workflow_goes_out_as_a_file_and_comes_back(api: Any, house: House, kind: str) -> None:
    workflow = house.workflow()
    _, text = api("GET", f"workflows/{workflow.id}/file.{kind}")
    status, made = api("POST", "workflows/from-file", {"text": text if isinstance(text, str) else json.dumps(text)})
    assert status == 201
    assert Workflow.objects.get(id=made["id"]).draft == workflow.draft
    status, data = api("POST", "workflows/from-file", {"text": "name: x\nsteps:\n- {kind: dance, id: a}"})
    assert status == 422 and data["detail"].startswith("This is not a workflow. line 3, steps.0: ")


def test_publishing_says_before_what_it_does(api: Any, house: House) -> None:
    workflow = house.workflow()
    shorter = ASK | {"steps": ASK["steps"][:1], "leaves_on": []}
    _, saved = api("PUT", f"workflows/{workflow.id}/draft", {"document": shorter, "revision": 1})
    _, plan = api("GET", f"workflows/{workflow.id}/publish")
    assert (plan["version"], plan["inside"], plan["errors"]) == (2, 0, [])
    assert "No longer leaves when they reply." in plan["changes"] and "Gone: Has 72 hours to answer." in plan["changes"]
    status, now = api("POST", f"workflows/{workflow.id}/publish", {"revision": saved["revision"]})
    assert (status, now["workflow"]["version"], now["workflow"]["changes"]) == (200, 2, [])


def test_enrolling_says_before_who_comes_and_a_closed_door_lets_nobody_in(api: Any, house: House) -> None:
    workflow = house.workflow(hours={"start": "09:00", "end": "19:00"})
    house.contact(1)
    Contact.objects.create(account=house.sailing, first_name="No phone", email="n@example.com", added_at=NOON)
    everyone = {"who": {"q": "", "tag": ""}}
    with clock.at(NOON.replace(hour=22)):
        _, plan = api("POST", f"workflows/{workflow.id}/intakes/plan", everyone)
        assert (plan["joining"], plan["first_message"]) == (2, "Tue 3 Mar, 09:00")
        assert plan["beyond"] == ["1 of them has no mobile number: what goes by text passes them over."]
        api("POST", f"workflows/{workflow.id}/intakes", everyone)
        until_quiet()
    _, again = api("POST", f"workflows/{workflow.id}/intakes/plan", everyone)
    assert (again["joining"], again["left_out"]) == (0, {"inside already": 2})
    _, watch = api("GET", f"workflows/{workflow.id}/watch")
    assert watch["inside"] == 2
    assert {line["step"]: line["here"] for line in watch["lines"]} == {"hello": 1, "answer": 1}
    api("POST", f"workflows/{workflow.id}/door/close", {})
    _, shut = api("POST", f"workflows/{workflow.id}/intakes/plan", everyone)
    assert shut["problem"] == "It is closed to newcomers."


def test_who_is_taken_out_gets_nothing_more(api: Any, house: House) -> None:
    contact, workflow = house.contact(), house.workflow()
    with clock.at(NOON):
        api("POST", f"workflows/{workflow.id}/intakes", {"who": {"ids": [contact.id]}})
        until_quiet()
        _, rows = api("GET", f"contacts/{contact.id}/enrolments")
        assert api("POST", f"enrolments/{rows[0]['id']}/take-out", {"why": "moved away"})[0] == 204
        until_quiet()
    _, rows = api("GET", f"contacts/{contact.id}/enrolments")
    assert rows[0]["ended"].startswith("moved away, ")
    _, story = api("GET", f"contacts/{contact.id}/story")
    assert "Taken out: moved away." in [item["sentence"] for item in story]


def test_house_rules_are_set_checked_and_kept_by_the_live_engine(house: House, signed_in) -> None:  # type: ignore[no-untyped-def]
    client, base = signed_in(house.consultant), "/api/accounts/sailing"
    contact = house.contact()
    limit = {"messages": 1, "within": "2 days", "purposes": ["marketing"], "over": "wait"}
    assert client.put(f"{base}/care", {"limits": [limit]}, content_type="application/json").status_code == 200
    assert client.get(f"{base}/care").json()["limits"][0]["within"] == "2 days"
    odd = client.put(f"{base}/care", {"limits": [{"messages": 0}]}, content_type="application/json")
    assert odd.status_code == 422 and "messages" in odd.json()["detail"]
    assert client.get(f"{base}/care").json()["limits"][0]["messages"] == 1
    refused = signed_in(house.member).put(f"{base}/care", {}, content_type="application/json")
    assert refused.status_code == 403

    text = {"kind": "text", "message": {"name": "T", "body": "Hi"}}
    steps = [text | {"id": "one"}, text | {"id": "two"}]
    with clock.at(NOON) as move_to:
        enrolling.enrol(house.workflow(steps=steps, leaves_on=[]), [contact.id], "test", Cause())
        moving_the_clock.run_through(NOON + timedelta(days=3), move_to)
    queued = list(contact.messages.order_by("id").values_list("queued_at", flat=True))
    assert queued == [NOON, NOON + timedelta(days=2)]


def test_what_waits_for_somebody_is_shown_and_settled(house: House, signed_in) -> None:  # type: ignore[no-untyped-def]
    client, base = signed_in(house.consultant), "/api/accounts/sailing"
    held = {"kind": "text", "id": "h", "held": True, "message": {"name": "H", "body": "Held"}}
    workflow = house.workflow(steps=[held], leaves_on=[], starts=[{"kind": "by_hand"}])
    enrolling.enrol(workflow, [house.contact(1).id, house.contact(2).id], "test", Cause())
    until_quiet()
    enrolling.enrol(workflow, [house.contact(3).id], "test", Cause())
    Enrolment.objects.filter(begun=False).update(fault="ValueError: odd", due_at=None)
    shown = client.get(f"{base}/aside").json()
    assert shown["counts"] == {"enrolments": 1, "events": 0, "held": 2, "uncertain": 0, "calls": 0, "held_back": 0}
    first, second = (one["id"] for one in shown["messages"])

    def settle(id: int, did: str) -> int:
        body = {"did": did}
        status: int = client.post(f"{base}/messages/{id}/settle", body, content_type="application/json").status_code
        return status

    assert [settle(first, "let_go"), settle(second, "drop"), settle(second, "let_go")] == [200, 200, 409]
    assert client.post(f"{base}/aside/retry").json() == {"count": 1}
    until_quiet()
    counts = client.get(f"{base}/aside").json()["counts"]
    assert (counts["enrolments"], counts["held"]) == (0, 1)  # the one tried again holds its message, too
    assert Item.objects.get().text.startswith("Held\nYour choices: ")


def test_what_a_workflow_asks_of_the_team_stands_under_today(house: House, signed_in) -> None:  # type: ignore[no-untyped-def]
    steps = [
        {"kind": "notice", "id": "n", "text": "Look at {{ contact.first_name }}", "by": "both"},
        {"kind": "print_letter", "id": "l", "letter": {"name": "Welcome", "body": "Dear {{ contact.first_name }}"}},
        {"kind": "own_task", "id": "o", "title": "Look at the boat"},
        {
            "kind": "to_do",
            "id": "t",
            "title": "Send the tide table",
            "assign": {"to": "member", "members": ["Imogen F"]},
        },
    ]
    workflow = house.workflow(steps=steps, leaves_on=[], starts=[{"kind": "by_hand"}])
    enrolling.enrol(workflow, [house.contact().id], "test", Cause())
    until_quiet()
    client, base = signed_in(house.member), "/api/accounts/sailing"
    today = client.get(f"{base}/today").json()
    [notice] = today["notices"]
    assert notice["text"] == "Look at P1"
    assert [(one["kind"], one["title"], one["assigned"]) for one in today["to_dos"]] == [
        ("letter", "Welcome", "Mel R"),
        ("custom", "Look at the boat", "Mel R"),
        ("to_do", "Send the tide table", "Imogen F"),
    ]
    assert today["to_dos"][0]["say"] == "Dear P1"
    mail = Item.objects.get(channel="email")
    assert (mail.theirs, mail.text.splitlines()[0]) == (house.member.email, "Look at P1")
    other = signed_in(house.consultant)
    assert other.get(f"{base}/today").json()["notices"] == []
    assert other.post(f"{base}/notices/{notice['id']}/seen").status_code == 404
    assert client.post(f"{base}/notices/{notice['id']}/seen").status_code == 204
    assert client.get(f"{base}/today").json()["notices"] == []
    letter = today["to_dos"][0]["id"]
    done = client.post(f"{base}/tasks/{letter}/outcome", {"outcome": "done"}, content_type="application/json")
    assert (done.status_code, done.json()) == (200, {"comes_back": "", "undo_for": 8.0})
