"""Around the script: versions and moving between them, names and lines from elsewhere, the list, paper, tests to oneself."""

from datetime import timedelta
from io import BytesIO
from typing import Any

import pytest
from pypdf import PdfReader

from bluffside.core.care.house import Care
from bluffside.core.care.quiet import QuietHours
from bluffside.core.channels.consent import why_closed
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.files import parse_workflow
from bluffside.core.workflow.moving import KEEPS_ITS_MOMENT, MOVED_TO_END
from bluffside.server.capture import forms
from bluffside.server.capture.models import Form, LeadSource
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message
from bluffside.server.outside.models import Item
from bluffside.server.people.models import Contact, Field
from bluffside.server.people.queries import load_contacts
from bluffside.server.people.services import add_tags, set_consent
from bluffside.server.pipeline import stages
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, paper, writing
from bluffside.server.workflows.audience import people_of
from bluffside.server.workflows.models import Enrolment, Workflow
from bluffside.starters import starters
from tests.core.examples import ASK
from tests.server.conftest import NOON, House

WAIT = {"kind": "wait", "id": "w", "duration": "2 days"}


def tag(id: str, name: str) -> dict[str, Any]:
    return {"kind": "tag", "id": id, "tag": name}


def draft(api: Any, workflow: Workflow, **changes: Any) -> int:
    """Saves a draft; answers its revision."""
    revision = Workflow.objects.get(id=workflow.id).revision
    _, saved = api("PUT", f"workflows/{workflow.id}/draft", {"document": ASK | changes, "revision": revision})
    return int(saved["revision"])


@pytest.fixture
def waiting(house: House) -> tuple[Workflow, Contact]:
    """Somebody at the wait of a workflow of three lines."""
    workflow = house.workflow(steps=[tag("a", "one"), WAIT, tag("b", "two")], leaves_on=[])
    contact = house.contact()
    with clock.at(NOON):
        enrolling.enrol(workflow, [contact.id], "by hand", Cause())
        until_quiet()
    return workflow, contact


def test_who_waits_is_moved_and_gets_what_is_new(api: Any, waiting: tuple[Workflow, Contact]) -> None:
    workflow, contact = waiting
    steps = [tag("a", "one"), WAIT | {"duration": "9 days"}, tag("new", "three"), tag("b", "two")]
    revision = draft(api, workflow, steps=steps, leaves_on=[])
    _, plan = api("GET", f"workflows/{workflow.id}/publish")
    [move] = plan["moves"]
    assert (move["version"], move["count"], move["where"]) == (1, 1, "Waits 2 days.")
    assert move["changes"] == [KEEPS_ITS_MOMENT, "Gains: Tags three."]
    with clock.at(NOON.replace(hour=13)):
        status, done = api("POST", f"workflows/{workflow.id}/publish", {"revision": revision, "inside": "move"})
        assert (status, done["moved"]) == (200, 1)
        until_quiet()
    enrolment = Enrolment.objects.get(contact=contact)
    # A wait keeps the moment it was waiting for.
    assert (enrolment.version.number, enrolment.place, enrolment.until) == (2, "w", NOON.replace(day=4))
    with clock.at(NOON.replace(day=4)):
        until_quiet()
    assert {one.tag.name for one in contact.tagged.all()} == {"one", "two", "three"}
    _, story = api("GET", f"contacts/{contact.id}/story")
    assert any("Moved from version 1 to version 2 by Imogen F." in item["sentence"] for item in story)


def test_whose_line_is_gone_begins_at_the_next_that_is_left_or_leaves(
    api: Any, waiting: tuple[Workflow, Contact]
) -> None:
    workflow, contact = waiting
    revision = draft(api, workflow, steps=[tag("a", "one"), tag("b", "two")], leaves_on=[])
    with clock.at(NOON.replace(hour=13)):
        api("POST", f"workflows/{workflow.id}/publish", {"revision": revision, "inside": "move"})
        until_quiet()
    enrolment = Enrolment.objects.get(contact=contact)
    assert enrolment.ended_at and {one.tag.name for one in contact.tagged.all()} == {"one", "two"}

    other = house_of(workflow).contact(2)
    with clock.at(NOON.replace(hour=14)):
        revision = draft(api, workflow, steps=[WAIT], leaves_on=[])
        api("POST", f"workflows/{workflow.id}/publish", {"revision": revision})
        enrolling.enrol(Workflow.objects.get(id=workflow.id), [other.id], "by hand", Cause())
        until_quiet()
        revision = draft(api, workflow, steps=[tag("z", "other")], leaves_on=[])
        api("POST", f"workflows/{workflow.id}/publish", {"revision": revision, "inside": "move"})
        until_quiet()
    left = Enrolment.objects.get(contact=other)
    assert left.ended == MOVED_TO_END and not other.tagged.exists()


def house_of(workflow: Workflow) -> House:
    account = workflow.account
    return House(account.practice, account, account, workflow.changed_by, workflow.changed_by)  # type: ignore[arg-type]


def test_who_finishes_their_version_is_left_alone(api: Any, waiting: tuple[Workflow, Contact]) -> None:
    workflow, contact = waiting
    revision = draft(api, workflow, steps=[tag("a", "one")], leaves_on=[])
    api("POST", f"workflows/{workflow.id}/publish", {"revision": revision})
    assert Enrolment.objects.get(contact=contact).version.number == 1


def test_who_matches_already_is_counted_and_comes_in_only_when_asked(api: Any, house: House) -> None:
    people = [house.contact(number) for number in (1, 2, 3)]
    workflow = house.workflow(steps=[WAIT])
    add_tags(house.sailing, [(one.id, "taster", Cause()) for one in people[:2]])
    revision = draft(api, workflow, steps=[WAIT, tag("x", "y")])
    _, plan = api("GET", f"workflows/{workflow.id}/publish")
    assert plan["matching"] == 2
    _, done = api("POST", f"workflows/{workflow.id}/publish", {"revision": revision})
    assert (done["enrolled"], Enrolment.objects.count()) == (0, 0)
    revision = draft(api, workflow, steps=[WAIT])
    _, done = api("POST", f"workflows/{workflow.id}/publish", {"revision": revision, "enrol": True})
    assert done["enrolled"] == 2
    assert set(Enrolment.objects.values_list("contact_id", flat=True)) == {one.id for one in people[:2]}


def test_versions_are_kept_compared_and_read_again(api: Any, house: House) -> None:
    workflow = house.workflow(steps=[tag("a", "one")])
    revision = draft(api, workflow, steps=[tag("a", "two")])
    api("POST", f"workflows/{workflow.id}/publish", {"revision": revision})
    _, rows = api("GET", f"workflows/{workflow.id}/versions")
    assert [(row["number"], row["current"]) for row in rows] == [(2, True), (1, False)]
    assert rows[0]["changes"] == ["Was: Tags one. Now: Tags two."]
    _, beside = api("GET", f"workflows/{workflow.id}/versions/1/beside?other=2")
    assert [(row["state"], row["old"], row["new"]) for row in beside["rows"]] == [("changed", "Tags one.", "Tags two.")]
    _, first = api("GET", f"workflows/{workflow.id}/versions/1")
    assert first["document"]["steps"][0]["tag"] == "one"
    assert api("GET", f"workflows/{workflow.id}/versions/3")[0] == 404


def test_people_concerned_are_counted_from_the_account(api: Any, house: House) -> None:
    house.contact(1)
    Contact.objects.create(account=house.sailing, first_name="No phone", email="n@example.com", added_at=NOON)
    Contact.objects.create(account=house.sailing, email="x@example.com", mobile="+447700900999", added_at=NOON)
    body = {"name": "T", "body": "Hi {{ contact.first_name }}"}
    _, data = api("POST", "read", {"document": {"name": "x", "steps": [{"kind": "text", "id": "t", "message": body}]}})
    said = {check["code"]: check["sentence"] for check in data["reading"]["checks"]}
    assert said["beyond-reach"] == "1 of 3 cannot be reached by text (no mobile number, or opted out)."
    assert said["merge-field-empty"] == "1 of 3 have no first name, which “T” uses."


# ---- names


def test_names_come_from_tables_and_from_what_workflows_say(api: Any, house: House) -> None:
    stages.make(house.sailing, "Courses", house.consultant, ["New", "Talking"])
    add_tags(house.sailing, [(house.contact().id, "keen", Cause())])
    house.workflow(starts=[{"kind": "form_sent", "form": "Open day"}])
    _, data = api("GET", "names")
    names = {kind: [one["name"] for one in named] for kind, named in data["names"].items()}
    assert names["form"] == ["Open day"] and names["pipeline"] == ["Courses"] and names["stage"] == ["New", "Talking"]
    assert names["tag"] == ["keen", "wants a course"] and names["member"] == ["Mel R"]
    assert {"name": "keen", "about": "1 person"} in data["names"]["tag"]
    _, uses = api("GET", "uses")
    assert [(one["kind"], one["sets"]) for one in uses if one["name"] == "wants a course"] == [("tag", True)]
    assert [one["sentence"] for one in uses if one["name"] == "Hello"] == ["Texts Hello."]


def test_where_something_is_used_is_told_of_everything_that_names_it_and_a_merge_reaches_all(
    api: Any, house: House
) -> None:
    account = house.sailing
    Field.objects.create(account=account, name="Date of birth", kind="date")
    add_tags(account, [(house.contact().id, "crew", Cause())])
    keen = {"test": "all", "of": [{"test": "tag", "tag": "crew"}, {"test": "tag", "tag": "Crew"}]}
    api("POST", "segments", {"name": "Keen", "condition": keen})
    _, form = api("POST", "forms", {"name": "Open day"})
    question = {"id": "b", "label": "Born?", "fills": "field:Date of birth", "kind": "date"}
    mail = {"id": "m", "label": "Mail", "fills": "email", "kind": "email"}
    design = {"questions": [mail, question], "tags": ["crew"], "lists": ["races"]}
    assert api("PUT", f"forms/{form['id']}", {"design": design, "open": True})[0] == 200
    api("POST", "incoming-rules", {"words": ["row"], "acts": {"tags": ["Crew", "crew"], "tags_off": ["crew"]}})
    _, source = api("POST", "lead-sources", {"name": "Advert"})
    LeadSource.objects.filter(id=source["id"]).update(matching={"tags": ["crew"]})
    being = {"name": "Is crew", "points": 5, "when": {"test": "tag", "tag": "crew"}}
    assert api("PUT", "score", {"rules": {"being": [being]}, "revision": 0})[0] == 200
    assert api("POST", "score/count", {"revision": 1})[0] == 200
    words = {"name": "Hi", "body": "Born {{ contact.fields.Date_of_birth }}"}
    workflow = house.workflow(steps=[tag("t", "crew"), {"kind": "text", "id": "m", "message": words}])

    def used(kind: str, name: str) -> set[tuple[str, str]]:
        return {
            (one["place"], one["title"]) for one in api("GET", "uses")[1] if (one["kind"], one["name"]) == (kind, name)
        }

    places = {
        ("segment", "Keen"),
        ("form", "Open day"),
        ("rule", "“row”"),
        ("source", "Advert"),
        ("score", "has the tag “crew”"),
        ("workflow", workflow.name),
    }
    assert used("tag", "crew") == places and used("list", "races") == {("form", "Open day")}
    assert used("field", "Date of birth") == {("form", "Open day"), ("workflow", workflow.name)}
    assert "no-such-field" not in {one.code for one in writing.all_checks(account, writing.draft_of(workflow))}

    api("POST", "tags", {"name": "hands"})
    ids = {one["name"]: one["id"] for one in api("GET", "tags")[1]}
    assert api("POST", f"tags/{ids['crew']}/merge", {"into": ids["hands"]})[1] == {"count": 1}
    assert used("tag", "hands") == places and used("tag", "crew") == {("workflow", workflow.name)}
    still = [one for one in api("GET", "uses")[1] if one["name"] == "crew"]
    assert [(one["runs"], one["sentence"]) for one in still] == [
        (True, "Not in the draft, but in a version that runs.")
    ]
    assert used("tag", "Crew") == {("segment", "Keen"), ("rule", "“row”")}  # another one
    row = Workflow.objects.get(id=workflow.id)
    assert row.revision == workflow.revision + 1 and row.published_id == workflow.published_id
    assert "crew" not in api("GET", f"forms/{form['id']}")[1]["design"]["tags"]


def test_a_message_that_names_a_field_there_is_not_says_so(house: House) -> None:
    words = {"name": "Hi", "body": "Born {{ contact.fields.Date_of_birth }}"}
    workflow = house.workflow(steps=[{"kind": "text", "id": "m", "message": words}])
    found = [
        one for one in writing.all_checks(house.sailing, writing.draft_of(workflow)) if one.code == "no-such-field"
    ]
    assert [(one.step, one.sentence) for one in found] == [("m", "There is no field “Date of birth”.")]


def test_lines_from_elsewhere_say_what_is_missing_and_take_other_names(api: Any, house: House) -> None:
    house.workflow(steps=[tag("a", "regular")])
    lines = [tag("t", "keen"), {"kind": "call", "id": "c", "assign": {"to": "member", "members": ["Zoe"]}}]
    _, found = api("POST", "lines", {"steps": lines})
    assert [(one["kind"], one["name"], one["offered"]) for one in found["missing"]] == [
        ("tag", "keen", True),
        ("member", "Zoe", False),
    ]
    names = [["tag", "keen", "regular"], ["member", "Zoe", "Mel R"]]
    _, given = api("POST", "lines", {"steps": lines, "names": names})
    assert given["missing"] == [] and given["steps"][0]["tag"] == "regular"
    assert given["steps"][1]["assign"]["members"] == ["Mel R"]


# ---- the list, the starter set, paper


def test_a_workflow_is_copied_without_its_people_coloured_and_put_away(
    api: Any, waiting: tuple[Workflow, Contact]
) -> None:
    workflow, _ = waiting
    api("PUT", f"workflows/{workflow.id}/colour", {"colour": "kelp"})
    status, copy = api("POST", f"workflows/{workflow.id}/copy")
    assert (status, copy["version"], copy["came"]) == (201, None, 0)
    api("POST", f"workflows/{workflow.id}/archive/away?inside=go_on")
    _, rows = api("GET", "workflows")
    row = {one["id"]: one for one in rows}
    assert row[copy["id"]]["name"] == f"{workflow.name}, copy" and row[copy["id"]]["colour"] == "kelp"
    assert row[workflow.id]["archived"] and not row[workflow.id]["open"] and row[workflow.id]["inside"] == 1
    assert api("PUT", f"workflows/{workflow.id}/colour", {"colour": "url(x)"})[0] == 422


def test_every_starter_becomes_a_draft_and_goes_on_paper(api: Any, house: House) -> None:
    _, listed = api("GET", "starters")
    assert [one["key"] for one in listed] == list(starters())
    for key in starters():
        status, made = api("POST", f"starters/{key}")
        assert status == 201
        status, paper = api("GET", f"workflows/{made['id']}/script.pdf")
        assert status == 200 and paper.startswith("%PDF-1.")
        assert api("GET", f"workflows/{made['id']}/script.mmd")[1].startswith("flowchart TD\n")
    assert api("POST", "starters/nothing")[0] == 404


def test_what_stands_on_paper_is_read_back_by_another_reader(house: House) -> None:
    """By pypdf, which shares nothing with what wrote it: every sentence, every message, letters beyond ASCII."""
    wording = {"name": "Größe", "body": 'Schöne Grüße, {{ contact.first_name | default: "Zoë" }} – “bald”\n\nÇa va? 🙂'}
    long = [{"kind": "text", "id": f"t-{number}", "message": wording} for number in range(30)]
    document = parse_workflow(ASK | {"name": "Łódź & Pécs", "steps": [*ASK["steps"], *long]})
    made = paper.script(document, "Tern Harbour", "Europe/London", "Draft", NOON)
    pages = PdfReader(BytesIO(made)).pages
    text = " ".join(" ".join(page.extract_text() for page in pages).split())
    for step in walk(document.steps):
        assert step.describe().rstrip(".") in text
    assert "Łódź & Pécs" in text and "Schöne Grüße, [first name, or “Zoë”] – “bald”" in text and "Ça va? ◊" in text
    assert len(pages) > 2 and "Read and agreed, name" in text and f"page {len(pages)}" in text


def test_a_test_message_goes_to_oneself_marked_and_is_counted_nowhere(api: Any, house: House) -> None:
    words = {"channel": "email", "subject": "Hello", "body": 'Hi {{ contact.first_name | default: "there" }}'}
    assert api("POST", "test-message", words) == (200, {"to": "imogen@example.com"})
    [item] = Item.objects.all()
    assert (item.theirs, item.subject) == ("imogen@example.com", "Test: Hello") and item.text.startswith("Hi Robin")
    assert not Message.objects.exists()
    status, refused = api("POST", "test-message", {"channel": "text", "body": "Hi"})
    assert (status, refused["detail"]) == (422, "Not sent: you have no phone number of your own here.")
    assert api("POST", "test-message", {"channel": "letter", "body": "Hi"})[0] == 422


def test_what_a_page_counts_is_what_the_rule_says(house: House) -> None:
    """Under "ask first", nobody is reached who has not agreed."""
    contacts = [house.contact(number) for number in range(4)]
    set_consent(house.sailing, [contacts[0].id], "text", True, "said so")
    asks = Care(policy={"marketing": "ask_first"})
    Account.objects.filter(id=house.sailing.id).update(care=asks.model_dump(mode="json"))
    house.sailing.refresh_from_db()
    found = people_of(house.sailing, parse_workflow(ASK | {"starts": [{"kind": "by_hand"}]}))
    facts = load_contacts(house.sailing, [one.id for one in contacts])
    refused = [why_closed(one.contact, "text", "marketing", asks) for one in facts.values()]
    assert (found.count, found.beyond["text"]) == (4, sum(map(bool, refused))) == (4, 3)


def test_a_tag_that_a_form_or_a_source_gives_is_set_by_something(house: House) -> None:
    forms.make(house.sailing, "Open day")
    Form.objects.update(design={"questions": [], "tags": ["open day"]})
    document = parse_workflow(ASK | {"starts": [{"kind": "tag_added", "tags": ["open day"]}]})
    assert not [one for one in writing.all_checks(house.sailing, document) if one.code == "no-such-tag"]


def test_who_is_inside_of_what_is_put_away_goes_on_or_leaves_as_somebody_says(house: House, api: Any) -> None:
    workflow = house.workflow()
    enrolling.enrol(workflow, [house.contact().id], "test", Cause())
    until_quiet()
    status, said = api("POST", f"workflows/{workflow.id}/archive/away")
    assert (status, said["detail"].split(".")[0]) == (409, "1 person is inside")
    assert api("POST", f"workflows/{workflow.id}/archive/away?inside=go_on")[0] == 204
    assert Enrolment.objects.filter(ended_at=None).count() == 1
    assert api("POST", f"workflows/{workflow.id}/archive/back")[0] == 204
    assert api("POST", f"workflows/{workflow.id}/archive/away?inside=leave")[0] == 204
    until_quiet()
    assert Enrolment.objects.get().ended == "the workflow was put away"


def test_the_same_rehearsal_is_kept_once_and_a_plan_says_when_the_first_message_goes(house: House, api: Any) -> None:
    given = {"document": ASK, "contact_id": house.contact().id, "start": "2026-03-02T09:00"}
    _, first = api("POST", "rehearse/keep?name=One", given)
    again = given | {"document": ASK | {"scenarios": [first["scenario"]]}}
    assert (first["already"], api("POST", "rehearse/keep?name=Two", again)[1]["already"]) == ("", "One")

    held = house.workflow(name="Held", steps=[ASK["steps"][0] | {"held": True}])
    plan = {"who": {"ids": [given["contact_id"]]}}
    assert api("POST", f"workflows/{held.id}/intakes/plan", plan)[1]["first_message"] == "when somebody lets it go"
    quiet = Care(quiet=(QuietHours(),))
    Account.objects.filter(id=house.sailing.id).update(care=quiet.model_dump(mode="json"))
    with clock.at(NOON + timedelta(hours=11)):  # 23:00: held until 8
        goes = api("POST", f"workflows/{house.workflow().id}/intakes/plan", plan)[1]["first_message"]
    assert goes == "Tue 3 Mar, 08:00"
