"""Two who are one, who is erased; fields, tags, lists, names and segments; people as files that come in again."""

import json
from typing import Any

from bluffside.core.workflow.files import parse_workflow
from bluffside.server.capture import forms
from bluffside.server.capture.models import FormAnswer
from bluffside.server.events.models import Event
from bluffside.server.events.stream import WORLD, Cause
from bluffside.server.hooks.models import Call
from bluffside.server.messaging.models import Message
from bluffside.server.outside.services import ask
from bluffside.server.people import erasing, imports, merging, sorting
from bluffside.server.people.models import (
    Consent,
    Contact,
    ContactImport,
    Field,
    FurtherAddress,
    ImportFault,
    ImportPart,
)
from bluffside.server.people.services import (
    add_contact,
    add_tags,
    set_consent,
    set_fields,
    set_further,
    set_list,
    set_responsible,
)
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice import walls
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, writing
from bluffside.server.workflows.models import Enrolment
from tests.core.examples import ASK
from tests.server.bringing import begin, finish
from tests.server.conftest import NOON, House


def test_two_are_made_one_and_nothing_is_lost(house: House) -> None:
    account, workflow = house.sailing, house.workflow()
    one = add_contact(account, {"first_name": "Ana", "last_name": "Reyes", "email": "ana@example.com"})
    other = add_contact(
        account, {"first_name": "Ana", "last_name": "Reyes", "email": "a.na+x@example.com", "mobile": "07700900123"}
    )
    for contact in (one, other):
        enrolling.enrol(workflow, [contact.id], "test", WORLD)
        Deal.objects.create(
            account=account, contact=contact, ref="d", pipeline="Courses", stage="New", created_at=NOON, since=NOON
        )
    until_quiet()
    set_fields(other, {"Boat": "Gaff cutter"})
    set_consent(account, [one.id], "email", True, "ticked")
    set_consent(account, [other.id], "email", False, "asked to stop")
    set_list(account, [other.id], "regatta", True)
    add_tags(account, [(one.id, "crew", WORLD), (other.id, "crew", WORLD), (other.id, "shore", WORLD)])
    pairs = merging.duplicates(account)
    assert [(pair.first, pair.second, pair.why) for pair in pairs] == [(one.id, other.id, "the same name")]
    before = Event.objects.filter(contact_id__in=(one.id, other.id)).count()
    kept = merging.merge(account, one.id, other.id, ["email"], Cause(actor=house.consultant))
    kept.refresh_from_db()
    assert (kept.email, kept.mobile, kept.fields, kept.lists) == (
        "a.na+x@example.com",
        "+447700900123",
        {"Boat": "Gaff cutter"},
        ["regatta"],
    )
    assert list(FurtherAddress.objects.values_list("address", flat=True)) == ["ana@example.com"]
    assert Consent.objects.get(contact=kept, channel="email", purpose="marketing").state == "withdrawn"
    assert sorted(link.tag.name for link in kept.tagged.all()) == ["crew", "shore"]
    assert kept.deals.count() == 2 and kept.messages.count() == 1
    assert sorted(Enrolment.objects.filter(contact=kept).values_list("ended", flat=True)) == [
        "",
        "the contact was merged into one who is in this workflow, too",
    ]
    assert Event.objects.filter(contact_id=one.id).count() == before + 1
    assert merging.duplicates(account) == []
    assert add_contact(account, {"first_name": "New", "email": "new@example.com"})
    finish(begin(house, b"Name,Email,Phone\nAna R,ana@example.com,\n"))
    assert Contact.objects.filter(account=account).count() == 2  # known by the further address


def test_a_pair_that_is_two_people_is_not_shown_again(api: Any, house: House) -> None:
    for n in (1, 2):
        add_contact(house.sailing, {"first_name": "Ana", "last_name": "Reyes", "email": f"a{n}@example.com"})
    _, found = api("GET", "duplicates")
    pair = found["pairs"][0]
    assert pair["compared"][2] == {"name": "email", "values": ["a1@example.com", "a2@example.com"]}
    assert api("POST", "duplicates/two", {"first": pair["second"]["id"], "second": pair["first"]["id"]})[0] == 204
    assert api("GET", "duplicates")[1]["count"] == 0


def test_who_is_erased_is_gone_and_their_no_is_kept(api: Any, house: House) -> None:
    contact = house.contact(1)
    enrolling.enrol(house.workflow(), [contact.id], "test", WORLD)
    until_quiet()
    set_further(contact, "email", "other@example.com", True)
    set_consent(house.sailing, [contact.id], "email", False, "asked to stop")
    form = forms.make(house.sailing, "After the call", for_team=True)
    forms.fill_in(form, contact, {"q1": ["Their secret"]}, house.consultant)
    finish(begin(house, b"Name,Email,Phone\nP1 Secret,p1@example.com,0\n"))
    assert ImportFault.objects.count() == 1
    assert api("POST", f"contacts/{contact.id}/erase", {"name": "Somebody"})[0] == 422
    assert api("POST", f"contacts/{contact.id}/erase", {"name": "p1 secret", "why": "asked"})[0] == 204
    assert not Contact.objects.filter(id=contact.id).exists() and not Message.objects.exists()
    assert set(Event.objects.values_list("kind", flat=True)) == {"contact.erased", "workflow.published"}
    assert not FormAnswer.objects.exists() and not ImportFault.objects.exists() and not ImportPart.objects.exists()
    everything = str(list(erasing.Erased.objects.values()))
    assert "p1@example.com" not in everything and "7700" not in everything
    finish(begin(house, b"Name,Email\nP,other@example.com\n", consent_channels=["email"], consent_evidence="fair"))
    again = Contact.objects.get(email="other@example.com")
    assert set(again.consents.filter(channel="email").values_list("state", flat=True)) == {"withdrawn"}


# ---- sorting and choosing


def test_a_field_that_changes_its_kind_reads_its_values_anew_or_says_which_does_not_fit(api: Any, house: House) -> None:
    _, field = api("POST", "fields", {"name": "Born", "kind": "text"})
    contact = house.contact(1)
    set_fields(contact, {"Born": "25/12/1990"})
    assert api("PUT", f"fields/{field['id']}", {"name": "Born", "kind": "number"})[0] == 422
    assert api("PUT", f"fields/{field['id']}", {"name": "Born", "kind": "date"})[0] == 200
    contact.refresh_from_db()
    assert contact.fields == {"Born": "1990-12-25"}
    assert api("PUT", f"contacts/{contact.id}/fields", {"values": {"Born": "31/02/1990"}})[0] == 422
    assert api("POST", "fields", {"name": "born", "kind": "date"}) == (
        422,
        {"detail": "There is a field “born” already."},
    )


def test_tags_are_merged_and_lists_are_kept(api: Any, house: House) -> None:
    one, other = house.contact(1), house.contact(2)
    add_tags(house.sailing, [(one.id, "crew", WORLD), (other.id, "Crew members", WORLD)])
    tags = {tag["name"]: tag["id"] for tag in api("GET", "tags")[1]}
    assert api("POST", f"tags/{tags['Crew members']}/merge", {"into": tags["crew"]})[1] == {"count": 1}
    assert [(tag["name"], tag["contacts"]) for tag in api("GET", "tags")[1]] == [("crew", 2)]
    set_list(house.sailing, [one.id], "regatta", True)
    api("PUT", "lists", {"name": "regatta", "offered": True, "offered_as": "Race days"})
    assert api("GET", "lists")[1] == [
        {"name": "regatta", "about": "", "offered": True, "offered_as": "Race days", "contacts": 1}
    ]


def test_a_field_of_several_words_is_read_as_another_kind(house: House) -> None:
    field = sorting.keep_field(house.sailing, "Date of birth", "text", [], house.consultant)
    contact = house.contact()
    set_fields(contact, {field.name: "3 February 1990"})
    sorting.keep_field(house.sailing, field.name, "date", [], house.consultant, field)
    contact.refresh_from_db()
    assert contact.fields == {"Date of birth": "1990-02-03"}


def test_what_has_a_name_is_called_otherwise_everywhere_unless_a_workflow_runs_with_it(api: Any, house: House) -> None:
    ana = house.contact(1)
    born, crew = {"kind": "date", "choices": []}, {"about": ""}
    _, field = api("POST", "fields", {"name": "Bron", **born})
    file = b"Email,Joined,Bron\np1@example.com,x,1990-02-03\n"
    finish(begin(house, file, duplicates="overwrite", tags=["crw"], lists=["raecs"]))
    add_tags(house.sailing, [(ana.id, "crw", WORLD)])
    set_list(house.sailing, [ana.id], "raecs", True)
    tag = next(one["id"] for one in api("GET", "tags")[1] if one["name"] == "crw")
    after = {"test": "field", "field": "Bron", "compare": "known"}
    where = {"test": "all", "of": [after, {"test": "tag", "tag": "crw"}, {"test": "list", "list": "raecs"}]}
    api("POST", "segments", {"name": "Keen", "condition": where})
    question = {"id": "b", "label": "Born?", "fills": "field:Bron", "kind": "date"}
    design = {"questions": [question], "tags": ["crw"], "lists": ["raecs"]}
    _, form = api("POST", "forms", {"name": "Talk", "for_team": True})
    api("PUT", f"forms/{form['id']}", {"design": design, "open": True})
    message = {"name": "Hi", "body": '{{ contact.fields.Bron | default: "soon" }}'}
    steps = [{"kind": "text", "id": "m", "message": message}, {"kind": "tag", "id": "t", "tag": "crw"}]
    draft = writing.create(house.sailing, parse_workflow(ASK | {"steps": steps}), house.consultant)

    assert api("PUT", f"fields/{field['id']}", {"name": "Born", **born})[1] == {**field, "name": "Born", "filled": 1}
    assert api("PUT", f"tags/{tag}", {"name": "crew", **crew})[0] == 200
    assert api("PUT", "lists", {"name": "races", "was": "raecs"})[1]["contacts"] == 1
    row = Contact.objects.get()
    assert (row.fields, row.lists, row.tagged.get().tag.name) == (
        {"Born": "1990-02-03", "Joined": "x"},
        ["races"],
        "crew",
    )
    assert api("POST", "contacts/count", {"segment": "Keen"})[1] == {"count": 1}
    kept = api("GET", f"forms/{form['id']}")[1]["design"]
    assert (kept["questions"][0]["fills"], kept["tags"], kept["lists"]) == ("field:Born", ["crew"], ["races"])
    names = {(use["kind"], use["name"]) for use in api("GET", "uses")[1] if use["title"] == draft.name}
    assert {("field", "Born"), ("tag", "crew")} <= names
    again = imports.read_file(house.sailing, house.consultant, "next.csv", file)
    assert again.settings["mapping"]["2"] == "field:Born"  # as the first was, by what it is called now
    first = ContactImport.objects.exclude(id=again.id).get()
    assert (first.settings["tags"], first.settings["lists"]) == (["crew"], ["races"])
    imports.take_back(first)
    while imports.import_chunk(house.sailing):
        pass
    assert Contact.objects.get().fields in ({}, {"Born": None})

    draft.refresh_from_db()
    writing.publish(draft, draft.revision, house.consultant)
    status, said = api("PUT", f"tags/{tag}", {"name": "hands", **crew})
    assert status == 422 and said["detail"].startswith(f"“{draft.name}” runs with “crew”.")
    assert api("PUT", f"fields/{field['id']}", {"name": "Birthday", **born})[0] == 422


def test_a_segment_is_kept_counted_and_used(api: Any, house: House) -> None:
    for n in range(1, 5):
        house.contact(n)
    add_tags(house.sailing, [(contact.id, "crew", WORLD) for contact in house.sailing.contacts.order_by("id")[:3]])
    where = {
        "test": "all",
        "of": [
            {"test": "tag", "tag": "crew"},
            {"test": "field", "field": "first_name", "compare": "is_not", "value": "p1"},
        ],
    }
    assert api("POST", "contacts/count", {"where": where})[1] == {"count": 2}
    status, segment = api("POST", "segments", {"name": "Keen", "condition": where})
    assert (status, segment["count"]) == (201, 2)
    assert segment["words"] == "has the tag “crew” and first name is not “p1”"
    assert api("POST", "contacts/find", {"who": {"segment": "Keen", "q": "p2"}})[1]["count"] == 1
    assert api("POST", "contacts/list", {"who": {"segment": "Keen"}, "list": "regatta"})[1]["count"] == 2
    given = {"who": {"list": "regatta"}, "member": "Mel R"}
    _, assigned = api("POST", "contacts/assign", given)
    assert assigned["count"] == 2 and [len(ids) for ids in assigned["before"].values()] == [2]
    assert set(assigned["before"]) == {""} and api("POST", "contacts/assign", given)[1] == {"count": 0, "before": {}}
    _, back = api("POST", "contacts/assign", {"who": {"ids": assigned["before"][""]}, "member": ""})
    assert back["count"] == 2 and sorted(back["before"]["Mel R"]) == sorted(assigned["before"][""])
    assert api("POST", "segments", {"name": "keen", "condition": where})[0] == 422
    assert api("POST", "contacts/find", {"who": {"segment": "Gone"}})[0] == 422
    assert api("POST", "contacts/count", {"where": {"test": "tag", "tag": ""}})[0] == 422


def test_people_go_out_as_files_that_come_in_again(house: House, signed_in: Any) -> None:
    Field.objects.create(account=house.sailing, name="Boat")
    ana = add_contact(
        house.sailing, {"first_name": "Ana", "last_name": "=1+1", "email": "ana@example.com", "mobile": "07700900123"}
    )
    set_fields(ana, {"Boat": "@cutter"})
    add_tags(house.sailing, [(ana.id, "crew", WORLD)])
    set_further(ana, "email", "other@example.com", True)
    set_further(ana, "email", "third@example.com", True)
    set_responsible(house.sailing, [ana.id], house.member)
    set_consent(house.sailing, [ana.id], "text", False, "wrote “stop”")
    files: dict[str, bytes] = {}
    for kind in ("csv", "xlsx", "vcf"):
        answer = signed_in(house.consultant).post(
            f"/api/accounts/sailing/contacts/export/{kind}", {}, content_type="application/json"
        )
        walls.leave()  # as a server has, by the time it sends what is streamed
        files[kind] = b"".join(answer.streaming_content) if answer.streaming else answer.content
        walls.enter(house.sailing)
    text, book, cards = files["csv"].decode(), files["xlsx"], files["vcf"]
    assert "'=1+1" in text and "'@cutter" in text
    for data in (text.encode(), book, cards):
        Contact.objects.all().delete()
        finish(begin(house, data))
        back = Contact.objects.get()
        assert (back.first_name, back.last_name, back.email, back.mobile) == (
            "Ana",
            "=1+1",
            "ana@example.com",
            "+447700900123",
        )
        further = list(back.further_addresses.order_by("id").values_list("address", flat=True))
        assert back.tagged.get().tag.name == "crew" and further == ["other@example.com", "third@example.com"]
        if data != cards:  # a vCard has no place for these
            assert back.fields == {"Boat": "@cutter"} and back.responsible == house.member
            assert set(Consent.objects.filter(contact=back, state="withdrawn").values_list("channel", flat=True)) == {
                "text"
            }


def test_a_column_says_who_is_responsible_and_who_is_nobody_is_named(house: House) -> None:
    data = b"Email,Owner\nana@example.com,mel r\nbea@example.com,MEL@example.com\ncleo@example.com,Nora\n"
    imported = finish(begin(house, data))
    held = dict(Contact.objects.values_list("email", "responsible__name"))
    assert held == {"ana@example.com": "Mel R", "bea@example.com": "Mel R", "cleo@example.com": None}
    assert [one.reason for one in ImportFault.objects.filter(of=imported)] == ["nobody of the team is called “Nora”"]
    again = finish(begin(house, b"Email,Owner\nana@example.com,Imogen F\n", duplicates="overwrite"))
    assert Contact.objects.get(email="ana@example.com").responsible == house.consultant
    imports.take_back(again)
    finish(again)
    assert Contact.objects.get(email="ana@example.com").responsible == house.member


def test_lists_in_outside_services_are_changed_from_the_contact(api: Any, house: House) -> None:
    """The request is on its way with who it is about; the stand-in's answer is what the page shows."""
    contact = house.contact(1)
    path, news = f"contacts/{contact.id}/outside-lists", {"service": "Gull Post", "what": "list", "name": "News"}
    for on in (True, False):
        assert api("PUT", path, news | {"on": on})[0] == 202
        call = Call.objects.filter(contact_id=contact.id).latest("id")
        ask("series", call.key, "sailing", json.loads(call.body))
        assert api("GET", path)[1] == ([news] if on else [])


def test_an_enrolment_names_the_lines_it_can_be_moved_to(api: Any, house: House) -> None:
    contact, workflow = house.contact(1), house.workflow()
    enrolling.enrol(workflow, [contact.id], "test", WORLD)
    until_quiet()
    row = api("GET", f"contacts/{contact.id}/enrolments")[1][0]
    lines = api("GET", f"enrolments/{row['id']}/lines")[1]
    assert row["where"] in [line["words"] for line in lines]
    last = lines[-1]["id"]
    assert api("POST", f"workflows/{workflow.id}/inside/move", {"ids": [row["id"]], "to": last})[1] == {"count": 1}
