"""The team: who is asked in, what each role may do at every route, who stands in, and leaving, which hands over what is held."""

import inspect
import json
import re
from collections.abc import Iterator
from datetime import timedelta
from typing import Any

import pytest
from django.apps import apps
from django.db import models
from django.test import Client
from ninja.operation import Operation

from bluffside.server.api import api as whole
from bluffside.server.diary.models import Notice, Task
from bluffside.server.events.stream import Cause
from bluffside.server.outside.models import Item
from bluffside.server.people.hiding import without_addresses
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.access import CALLED, RIGHTS
from bluffside.server.practice.models import Account, AuditEntry, Membership, Person, Practice
from bluffside.server.set_up import team
from bluffside.server.signing_in import invitations
from bluffside.server.signing_in.models import Invitation
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from tests.server.conftest import House
from tests.server.test_walls import values_for

PASSWORD = "slack-water-7"


def key_of(one: Invitation) -> str:
    return invitations.link(one).split("#")[1]


def post(path: str, **body: Any) -> tuple[int, Any]:
    answer = Client().post(f"/api/session/{path}", json.dumps(body), content_type="application/json")
    return answer.status_code, answer.json()


def invited(
    house: House, email: str = "fen@example.com", role: str = "team", account: Account | None = None
) -> Invitation:
    return invitations.invite(house.practice, account or house.sailing, email, role, house.consultant)


# ---- invitations


def test_an_invitation_makes_somebody_once(house: House) -> None:
    one = invited(house)
    until_quiet()
    assert invitations.link(one) in Item.objects.get(theirs="fen@example.com").text
    assert post("invited", key=key_of(one)) == (
        200,
        {"to": "Sailing", "by": "Imogen F", "role": "team member", "email": "fen@example.com", "known": False},
    )
    assert post("join", key=key_of(one), name="Fen", password="short")[0] == 422
    assert post("join", key=key_of(one), name=" ", password=PASSWORD)[1]["faults"] == {"name": "What are you called?"}
    status, session = post("join", key=key_of(one), name="Fen A", password=PASSWORD)
    assert status == 200 and [one["slug"] for one in session["accounts"]] == ["sailing"]
    assert post("join", key=key_of(one), name="Fen A", password=PASSWORD)[0] == 403
    noted = AuditEntry.objects.filter(area="team").order_by("id").values_list("what", "new")
    assert list(noted) == [("fen@example.com", "invited as team member"), ("Fen A", "came in as team member")]


def test_no_other_key_opens_and_an_older_one_no_more(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    older = key_of(invited(house))
    later = clock.now() + timedelta(minutes=1)
    with monkeypatch.context() as patch:
        patch.setattr(clock, "now", lambda: later)
        newer = invited(house)
    assert Invitation.objects.count() == 1 and newer.role == "team"
    assert post("invited", key=older)[0] == 403 and post("invited", key=key_of(newer))[0] == 200
    assert post("invited", key=key_of(newer)[:-1] + "_")[0] == 403 and post("invited", key="x")[0] == 403
    late = clock.now() + invitations.LASTS + timedelta(minutes=2)
    with monkeypatch.context() as patch:
        patch.setattr(clock, "now", lambda: late)
        assert post("join", key=key_of(newer), name="Fen", password=PASSWORD)[0] == 403
    key = key_of(newer)
    invitations.take_back(newer, house.consultant)
    assert post("join", key=key, name="Fen", password=PASSWORD)[0] == 403
    assert not Person.objects.filter(email="fen@example.com").exists()


def test_who_signs_in_here_already_comes_in_without_a_password_and_is_not_signed_in_by_it(house: House) -> None:
    one = invited(house, house.member.email, "manager", house.pottery)
    status, session = post("join", key=key_of(one))
    assert status == 200 and session["name"] is None
    assert house.pottery.memberships.get(person=house.member).role == "manager"
    other = Practice.objects.create(name="Other")
    Person.objects.create_user("far@example.com", PASSWORD, name="Far", practice=other)
    assert "another practice" in post("join", key=key_of(invited(house, "far@example.com")))[1]["detail"]
    assert invited(house, "new@example.com").account == house.sailing


def test_a_consultant_is_invited_to_every_account(house: House) -> None:
    one = invitations.invite(house.practice, None, "wren@example.com", invitations.CONSULTANT, house.consultant)
    status, session = post("join", key=key_of(one), name="Wren", password=PASSWORD)
    assert status == 200 and session["consultant"] and len(session["accounts"]) == 2


# ---- roles


def operations() -> Iterator[tuple[str, str, Operation]]:
    for prefix, router in whole._routers:
        if "{account}" in prefix:
            for path, view in router.path_operations.items():
                for operation in view.operations:
                    for method in operation.methods:
                        yield method, f"/api{prefix.rstrip('/')}/{path.lstrip('/')}", operation


def needed(operation: Operation) -> set[str]:
    """The rights that a route asks for, read where it asks: in the view, and in what of its module the view calls."""
    view = operation.view_func
    module = inspect.getmodule(view)
    source = inspect.getsource(view)
    called = [getattr(module, name, None) for name in re.findall(r"\b(_\w+)\(", source)]
    sources = [source, *(inspect.getsource(one) for one in called if inspect.isfunction(one))]
    return {right for text in sources for right in re.findall(r'require\(\s*request,\s*"([\w-]+)"', text)}


def example(schema: dict[str, Any], parts: dict[str, Any], depth: int = 0) -> Any:
    """The least that a schema allows."""
    if "$ref" in schema:
        return example(parts[schema["$ref"].rpartition("/")[2]], parts, depth + 1)
    if "const" in schema or "enum" in schema:
        return schema["const"] if "const" in schema else schema["enum"][0]
    for some in ("anyOf", "oneOf", "allOf"):
        if some in schema:
            return example(schema[some][0], parts, depth + 1)
    match schema.get("type"):
        case "object":
            own = schema.get("properties", {})
            return {name: example(own[name], parts, depth + 1) for name in schema.get("required", [])}
        case "array":
            return [example(schema["items"], parts, depth + 1)] * schema.get("minItems", 0)
        case "string":
            return {"date": "2026-03-10", "date-time": "2026-03-10T10:00:00Z"}.get(
                schema.get("format", ""), "x" * max(1, schema.get("minLength", 1))
            )
        case "integer" | "number":
            return schema.get("minimum", 1)
        case "boolean":
            return True
    return None


SCHEMA = whole.get_openapi_schema(path_prefix="/api/")
# Writes that every role may do: they change nothing of anybody else's.
OPEN_WRITES = {"find", "read", "reading", "rehearse", "notices", "choices", "typical", "resolve", "scenarios", "count", "outlook", "preview", "understand", "incoming-try", "lines", "own-copies", "plan"}  # fmt: skip


@pytest.mark.parametrize("role", ["manager", "team", "viewer"])
def test_every_route_refuses_every_role_what_the_table_does_not_give_it(
    house: House, signed_in: Any, role: str
) -> None:
    """Asked for all the same, it is refused with a sentence; where the role has the right, it is not refused for its role."""
    person = Person.objects.create_user("role@example.com", PASSWORD, name="R", practice=house.practice)
    Membership.objects.create(account=house.sailing, person=person, role=role)
    client, values, asked, refused = signed_in(person), values_for(house), 0, 0
    for method, path, operation in operations():
        rights = needed(operation)
        lacks = rights - RIGHTS[role]
        if len(rights) > 1 and lacks != rights:
            continue  # which of them is asked for depends on what is changed (sorting)
        spec = SCHEMA["paths"].get(path.replace("{int:", "{"), {}).get(method.lower(), {})
        content = spec.get("requestBody", {}).get("content", {})
        if content and "application/json" not in content:
            continue  # files: looked at by tests of their own
        body = example(content["application/json"]["schema"], SCHEMA["components"]["schemas"]) if content else {}
        address = re.sub(r"\{(?:int:)?(\w+)\}", lambda found: str(values[found[1]]), path)
        if not lacks:
            continue
        answer = client.generic(method, address, json.dumps(body), content_type="application/json")
        asked += 1
        if answer.status_code in (404, 422):
            continue  # what is not there, or cannot be read, is refused before anybody's role is looked at
        refused += 1
        assert answer.status_code == 403, (method, path, rights, answer.status_code, answer.content[:200])
        words = answer.json()["detail"]
        assert words.startswith(f"As {role} of Sailing you may not do that; ") and CALLED["consultant"] in words
    assert refused > {"manager": 0, "team": 40, "viewer": 60}[role], (asked, refused)


def test_every_write_asks_for_a_right(house: House) -> None:
    """So that a new route that forgets to is found."""
    without = [
        f"{method} {path}"
        for method, path, operation in operations()
        if method != "GET" and not needed(operation) and not OPEN_WRITES & set(path.split("/"))
    ]
    assert sorted(without) == []


def test_a_viewer_reads_no_address_anywhere(house: House, signed_in: Any) -> None:
    contact = house.contact()
    Contact.objects.filter(id=contact.id).update(email="ana.reyes@example.net", mobile="+447700900321")
    enrolling.enrol(house.workflow(house.sailing), [contact.id], "test", Cause())
    until_quiet()
    person = Person.objects.create_user("view@example.com", PASSWORD, name="V", practice=house.practice)
    Membership.objects.create(account=house.sailing, person=person, role="viewer")
    client, values, read = signed_in(person), {**values_for(house), "contact_id": contact.id}, 0
    for method, path, _ in operations():
        if method != "GET":
            continue
        address = re.sub(r"\{(?:int:)?(\w+)\}", lambda found: str(values[found[1]]), path)
        answer = client.get(address)
        said = b"".join(answer.streaming_content) if answer.streaming else answer.content  # type: ignore[attr-defined]
        read += answer.status_code == 200
        for secret in (b"ana.reyes@", b"7700900321", b"07700 900321"):
            assert secret not in said, (path, secret)
    assert read > 25
    mine = signed_in(house.consultant).get(f"/api/accounts/sailing/contacts/{contact.id}").content
    assert b"ana.reyes@example.net" in mine and b"07700 900321" in mine


def test_addresses_in_words_are_not_shown_and_other_numbers_are() -> None:
    said = {
        "text": "Write to ana@example.net or ring 07700 900321 by 2026-11-29, £1,204.50",
        "mobile": "+447700900321",
        "rows": [{"n": 7}],
    }
    assert without_addresses(said, "GB") == {
        "text": "Write to (not shown) or ring (not shown) by 2026-11-29, £1,204.50",
        "mobile": "",
        "rows": [{"n": 7}],
    }


# ---- standing in, being told, leaving


def colleague(house: House, name: str, email: str) -> Person:
    person = Person.objects.create_user(email, PASSWORD, name=name, practice=house.practice)
    Membership.objects.create(account=house.sailing, person=person, role="team")
    return person


def task_for_the_responsible(house: House) -> Task:
    contact = house.contact(Task.objects.count() + 1)
    Contact.objects.filter(id=contact.id).update(responsible=house.member)
    enrolling.enrol(house.workflow(name="Ring", steps=[{"id": "call", "kind": "call"}]), [contact.id], "test", Cause())
    until_quiet()
    return Task.objects.latest("id")


def test_what_falls_to_somebody_who_is_away_goes_to_who_stands_in(house: House, api: Any) -> None:
    assert task_for_the_responsible(house).assigned == house.member
    fen = colleague(house, "Fen", "fen@example.com")
    way = f"set-up/team/{house.member.id}"
    today = clock.now().date()
    assert (
        api("PATCH", way, {"stand_in": fen.id, "away_from": str(today), "away_until": str(today + timedelta(days=3))})[
            0
        ]
        == 200
    )
    row = next(one for one in api("GET", "set-up/team")[1]["members"] if one["id"] == house.member.id)
    assert row["away"] and row["stand_in"] == fen.id and row["holds"] == "1 contact, 1 task"
    assert task_for_the_responsible(house).assigned == fen
    assert api("PATCH", way, {"away_from": None})[0] == 200
    assert task_for_the_responsible(house).assigned == house.member
    assert api("PATCH", way, {"away_from": "2026-03-10", "away_until": "2026-03-09"})[0] == 422


def test_each_says_how_they_are_told(house: House, signed_in: Any) -> None:
    mel = signed_in(house.member)
    told = {"told": {"task": "daily"}, "zone": "Europe/London", "signature": "Mel, at the quay"}
    answer = mel.patch("/api/myself", json.dumps(told), content_type="application/json")
    assert answer.status_code == 200 and answer.json()["signature"] == "Mel, at the quay"
    task_for_the_responsible(house)
    notice = Notice.objects.get()
    assert notice.mail and notice.mail_at and notice.mail_at > clock.now()
    until_quiet()
    assert not Item.objects.filter(theirs=house.member.email).exists()  # it waits for the morning
    Notice.objects.update(mail_at=clock.now())
    until_quiet()
    subject = Item.objects.get(theirs=house.member.email).subject
    assert subject == f"{notice.contact.name}: {notice.text}", "one alone says what it is"
    for wrong in ({"told": {"task": "app"}}, {"zone": "Moon/Sea"}, {"phone": "12"}, {"name": " "}):
        assert mel.patch("/api/myself", json.dumps(wrong), content_type="application/json").status_code == 422


def test_whoever_leaves_hands_over_all_they_hold(house: House, api: Any, signed_in: Any) -> None:
    fen = colleague(house, "Fen", "fen@example.com")
    task = task_for_the_responsible(house)
    open_page = signed_in(house.member)
    assert open_page.get("/api/accounts/sailing/today").status_code == 200
    way = f"set-up/team/{house.member.id}/leave"
    refused = api("POST", way, {})
    assert refused[0] == 422 and "take over" in refused[1]["detail"]
    assert api("POST", way, {"to": house.member.id})[0] == 422
    assert api("POST", way, {"to": fen.id})[0] == 200
    assert open_page.get("/api/accounts/sailing/today").status_code == 404
    task.refresh_from_db()
    house.sailing.refresh_from_db()
    assert task.assigned == task.contact.responsible == house.sailing.responsible == fen
    assert not any(team.held(house.sailing, house.member).values())
    assert "went to Fen" in AuditEntry.objects.filter(area="team").latest("id").new


def test_of_every_table_that_names_somebody_it_is_decided_what_leaving_does(db: None) -> None:
    """What is still to be dealt with is handed over; what is written down stays under who did it."""
    stays = {
        "by",
        "stopped_by",
        "changed_by",
        "shown_by",
        "answered_by",
        "published_by",
        "settled_by",
        "actor",
        "person",
        "stand_in",
        "user",
        "off_by",
    }
    handed = {(holding.of(Account(id=0)).model.__name__, holding.field) for holding in team.HOLDINGS}
    handed.add(("Account", "responsible"))
    found = {
        (model.__name__, field.name)
        for model in apps.get_models()
        for field in model._meta.get_fields()
        if isinstance(field, models.ForeignKey) and field.related_model is Person and field.name not in stays
    }
    # handed over, or forgotten, by appointments.sittings
    apart = {(name, "member") for name in ("Taken", "MemberHours", "Busy", "BusyCalendar", "CalendarFeed")}
    assert found - apart == handed


def test_somebody_always_may_do_everything(house: House, signed_in: Any) -> None:
    imogen = signed_in(house.consultant)

    def change(person: Person, **said: bool) -> int:
        body = json.dumps(said)
        return int(imogen.patch(f"/api/practice/people/{person.id}", body, content_type="application/json").status_code)

    assert change(house.consultant, consultant=False) == 422 == change(house.consultant, shut_out=True)
    assert change(house.member, consultant=True) == 200
    assert change(house.member, shut_out=True) == 200
    assert signed_in(house.member).get("/api/accounts/sailing/today").status_code == 401
    assert change(house.member, shut_out=False) == 200 == change(house.member, consultant=False)
    assert signed_in(house.member).get("/api/accounts/pottery/today").status_code == 404
    assert signed_in(house.member).get("/api/practice/people").status_code == 403
