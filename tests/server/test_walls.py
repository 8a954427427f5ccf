"""Accounts are walls; signing in; what each role may do."""

import json
import re
import threading
from collections.abc import Iterator
from typing import Any
from urllib.parse import urlsplit

import psycopg
import pytest
from django.apps import apps
from django.core.exceptions import ValidationError
from django.db import ProgrammingError, connection, transaction
from django.test import Client

from bluffside.server import row_level_security
from bluffside.server.api import api
from bluffside.server.events.stream import Cause
from bluffside.server.people.models import Contact, Tag
from bluffside.server.practice import walls as practice_walls
from bluffside.server.practice.models import Account, Person, Practice
from bluffside.server.signing_in import locks
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from tests import databases
from tests.server.conftest import House


def values_for(house: House) -> dict[str, Any]:
    """What stands in the addresses of the schema: ids of things that are really there, where there are such."""
    contact, workflow = house.contact(), house.workflow()
    return {
        "account": "sailing",
        "contact_id": contact.id,
        "workflow_id": workflow.id,
        "door": "open",
        "state": "open",
        "kind": "yaml",
        "import_id": 1,
        "task_id": 1,
        "reply_id": 1,
        "enrolment_id": 1,
        "message_id": 1,
        "picture_id": 1,
        "showing_id": 1,
        "remark_id": 1,
        "step": "m",
        "table": "workflows",
        "digest": "a" * 64,
        "notice_id": 1,
        "call_id": 1,
        "number": 1,
        "key": "welcome",
        "way": "away",
        "intake_id": 1,
        "did": "pause",
        "segment_id": 1,
        "field_id": 1,
        "tag_id": 1,
        "form_id": 1,
        "answer_id": 1,
        "rule_id": 1,
        "stranger_id": 1,
        "source_id": 1,
        "type_id": 1,
        "thing_id": 1,
        "appointment_id": 1,
        "sitting_id": 1,
        "calendar_id": 1,
        "item_id": 1,
        "deal_id": 1,
        "note_id": 1,
        "view_id": 1,
        "moved": "5d0e4d2c-7a52-4f0e-9a53-0c5b7a1f2e3d",
        "pipeline_id": 1,
        "stage_id": 1,
        "of": "own",
        "format": "csv",
        "act": "stop",
        "proposal_id": 1,
        "invitation_id": 1,
        "sender_id": 1,
        "domain": "sailing.example.com",
        "person_id": house.member.id,
    }


def routes(house: House) -> Iterator[tuple[str, str]]:
    """Every method and address of the schema below sailing's account."""
    values = values_for(house)
    schema = api.get_openapi_schema(path_prefix="/api/")
    for path, methods in schema["paths"].items():
        if "{account}" in path:
            for method in methods:
                yield method, re.sub(r"\{(\w+)\}", lambda found: str(values[found[1]]), path)


def test_a_stranger_finds_nothing_behind_any_route(house: House, signed_in) -> None:  # type: ignore[no-untyped-def]
    other = Practice.objects.create(name="Other")
    make = Person.objects.create_user
    strangers = [
        make("s@example.com", "long-enough-3", name="S T", practice=other, is_consultant=True),
        make("t@example.com", "long-enough-3", name="T U", practice=house.practice),  # no membership
    ]
    walked = list(routes(house))
    assert len(walked) > 40
    for stranger in strangers:
        client = signed_in(stranger)
        for method, path in walked:
            answer = client.generic(method.upper(), path, "{}", content_type="application/json")
            assert answer.status_code == 404, (method, path)
    for method, path in walked:
        assert Client().generic(method.upper(), path, "{}", content_type="application/json").status_code == 401, path


def test_every_table_with_an_account_stands_behind_a_wall(db: None) -> None:
    tables = row_level_security.account_tables()
    assert len(tables) > 25
    assert row_level_security.without_wall() == []
    assert not row_level_security.may_pass()  # the tests connect as the application does
    for model in apps.get_models():  # and each that belongs to an account says whose it is
        if any(field.related_model is Account for field in model._meta.fields if field.is_relation):
            assert model._meta.db_table in tables


def test_who_reads_while_the_walls_are_raised_sees_what_is_theirs(committed_house: House, owner_url: str) -> None:
    """Ten raisings, half of which find walls that say something else."""
    committed_house.contact()
    account = committed_house.sailing.id
    seen: list[int] = []
    over = threading.Event()

    def read() -> None:
        with psycopg.connect(**connection.get_connection_params(), autocommit=True) as line:
            line.execute("SELECT set_config('bluffside.accounts', %s, false)", [str(account)])
            while not over.is_set():
                found = line.execute("SELECT count(*) FROM people_contact").fetchone()
                seen.append(int(found[0]) if found else -1)

    reader = threading.Thread(target=read)
    reader.start()
    name = urlsplit(owner_url).path.removeprefix("/")
    raise_them = (
        "import django; django.setup(); from django.db import connection; from bluffside.server import row_level_security\n"
        "for number in range(10):\n"
        "    if number % 2:\n"
        "        connection.cursor().execute('COMMENT ON POLICY wall ON people_contact IS NULL')\n"
        "    row_level_security.raise_walls()"
    )
    databases.run(name, "-c", raise_them)
    over.set()
    reader.join()
    assert len(seen) > 50 and set(seen) == {1}


def test_a_connection_sees_nothing_of_an_account_it_has_not_entered(house: House) -> None:
    """The database itself refuses, whatever the query says."""
    for account in (house.sailing, house.pottery):
        enrolling.enrol(house.workflow(account), [house.contact(1, account).id], "test", Cause())
    until_quiet()
    with connection.cursor() as cursor:

        def seen(table: str) -> set[int]:
            cursor.execute(f"SELECT DISTINCT account_id FROM {table}")
            return {row[0] for row in cursor.fetchall()}

        for table in row_level_security.account_tables():
            with practice_walls.within(house.sailing):
                assert seen(table) <= {house.sailing.id}, table
            with practice_walls.within():
                assert seen(table) == set(), table
        cursor.execute("SELECT relid::regclass::text FROM pg_partition_tree('events_event') WHERE isleaf")
        for (month,) in cursor.fetchall():  # nor past the wall by way of a month
            with pytest.raises(ProgrammingError, match="permission denied"), transaction.atomic():
                cursor.execute(f"SELECT 1 FROM {month}")
        mine = house.sailing.contacts.get()
        with practice_walls.within(house.pottery):
            assert Contact.objects.filter(id=mine.id).update(first_name="X") == 0
            with pytest.raises(ProgrammingError, match="row-level security"), transaction.atomic():
                Tag.objects.create(account=house.sailing, name="smuggled")
            for forbidden in ("ALTER TABLE people_tag DISABLE ROW LEVEL SECURITY", "SET ROLE bluffside"):
                with pytest.raises(ProgrammingError), transaction.atomic():
                    cursor.execute(forbidden)


def test_a_request_leaves_what_it_entered(house: House, signed_in) -> None:  # type: ignore[no-untyped-def]
    practice_walls.enter()
    practice_walls.leave()
    client = signed_in(house.consultant)
    assert client.get("/api/accounts/sailing/tags").status_code == 200
    assert client.get("/api/accounts/nowhere/tags").status_code == 404
    assert practice_walls.scope() == ("", "")
    assert Contact.objects.count() == 0


def test_things_of_one_account_are_not_found_through_another(house: House, signed_in) -> None:  # type: ignore[no-untyped-def]
    """The consultant may enter both; still the sailing contact is not in the pottery."""
    contact, workflow = house.contact(), house.workflow()
    client = signed_in(house.consultant)
    for path in (
        f"contacts/{contact.id}",
        f"contacts/{contact.id}/story",
        f"workflows/{workflow.id}",
        f"outside/{contact.id}",
    ):
        assert client.get(f"/api/accounts/sailing/{path}").status_code == 200
        assert client.get(f"/api/accounts/pottery/{path}").status_code == 404
    mine = house.workflow(house.pottery)
    who = {"who": {"ids": [contact.id]}}
    path = f"/api/accounts/pottery/workflows/{mine.id}/intakes"
    assert client.post(path, who, content_type="application/json").json()["total"] == 0
    assert not contact.enrolments.exists()


def test_a_team_member_may_work_but_not_write_workflows(house: House, signed_in) -> None:  # type: ignore[no-untyped-def]
    contact, workflow = house.contact(), house.workflow()
    client = signed_in(house.member)
    base = "/api/accounts/sailing"
    assert client.get(f"{base}/today").status_code == 200
    note = client.post(f"{base}/contacts/{contact.id}/notes", {"text": "rang"}, content_type="application/json")
    assert note.status_code == 204
    refused = client.post(f"{base}/workflows/{workflow.id}/publish", {"revision": 1}, content_type="application/json")
    assert refused.status_code == 403
    assert "team" in refused.json()["detail"]
    assert client.post(f"{base}/clock", {"hours": 1}, content_type="application/json").status_code == 403
    assert client.get("/api/accounts/pottery/today").status_code == 404


def sign_in(client: Client, password: str, email: str = "imogen@example.com", **headers: str) -> tuple[int, str]:
    body = json.dumps({"email": email, "password": password})
    way = "/_allauth/browser/v1/auth/login"
    answer = client.post(way, body, content_type="application/json", **headers)  # type: ignore[arg-type]
    return answer.status_code, " ".join(one["message"] for one in answer.json().get("errors", []))


def test_five_wrong_passwords_lock_the_name_for_a_while(house: House) -> None:
    client = Client()
    assert sign_in(client, "long-enough-1")[0] == 200
    for _ in range(4):
        assert sign_in(client, "wrong") == (400, "That email and password do not go together.")
    assert sign_in(client, "wrong")[1].startswith("Too many tries")
    status, words = sign_in(client, "long-enough-1")
    assert (status, words.split(".")[0]) == (400, "Too many tries")


def test_the_lock_is_of_a_name_and_a_place_and_of_a_name_that_is_tried_from_everywhere(
    house: House, settings: Any
) -> None:
    settings.BLUFFSIDE_PROXIES = 1

    def tried(name: str, at: int, password: str = "wrong") -> str:
        return sign_in(Client(), password, f"{name}@example.com", HTTP_X_FORWARDED_FOR=f"198.51.100.{at}")[1]

    for _ in range(5):
        tried("somebody", 1)
    assert tried("somebody", 1).startswith("Too many tries")
    assert tried("imogen", 1, "long-enough-1") == ""  # another name at the same place
    for _ in range(4):
        tried("imogen", 1)
    assert tried("imogen", 1, "long-enough-1") == "" == tried("imogen", 1, "long-enough-1")  # success counts anew
    for place in range(2, 2 + locks.FROM_ANYWHERE // 4 + 1):
        for _ in range(4):
            tried("imogen", place)
    assert tried("imogen", 99, "long-enough-1").startswith("Too many tries")


def test_another_sites_page_signs_nobody_in(house: House) -> None:
    client = Client(enforce_csrf_checks=True)
    token = {"HTTP_X_CSRFTOKEN": client.get("/api/session").json()["csrf"]}
    way = ["/_allauth/browser/v1/auth/login", json.dumps({"email": "imogen@example.com", "password": "long-enough-1"})]
    for foreign in ({}, {**token, "HTTP_ORIGIN": "https://evil.example"}):
        assert client.post(*way, content_type="application/json", **foreign).status_code == 403  # type: ignore[arg-type]
    assert "sessionid" not in client.cookies
    assert sign_in(client, "long-enough-1", **token, HTTP_ORIGIN="http://testserver")[0] == 200


def test_a_password_that_is_easy_to_guess_is_refused(house: House) -> None:
    for easy in ("short", "password1234"):
        with pytest.raises(ValidationError):
            Person.objects.create_user("new@example.com", easy, name="New", practice=house.consultant.practice)


def test_a_write_without_the_csrf_token_is_refused(house: House) -> None:
    client = Client(enforce_csrf_checks=True)
    client.force_login(house.consultant, "bluffside.server.signing_in.adapters.Backend")
    path = "/api/accounts/sailing/contacts"
    assert client.post(path, {"first_name": "X"}, content_type="application/json").status_code == 403
    token = client.get("/api/session").json()["csrf"]
    headers = {"X-CSRFToken": token}
    assert client.post(path, {"first_name": "X"}, content_type="application/json", headers=headers).status_code == 201


@pytest.mark.parametrize("path", ["/", "/sailing/today", "/api/nothing"])
def test_pages_carry_a_policy_that_runs_no_foreign_script(path: str, db: None) -> None:
    assert "script-src 'self'" in Client().get(path).headers["Content-Security-Policy"]
