"""The first run: a link makes the practice and its first consultant, once."""

import json
from typing import Any

import pytest
from django.core.management import call_command
from django.test import Client

from bluffside.server.practice import first_run, installation
from bluffside.server.practice.models import Person, Practice

SAID = {"practice": "Hale Follow-up", "name": "Wren Hale", "email": "Wren@Example.com", "password": "slack-water-7"}


def begin(client: Client, key: str, **changes: str) -> Any:
    body = json.dumps({**SAID, "key": key, **changes})
    return client.post("/api/session/first", body, content_type="application/json")


@pytest.fixture
def key(db: None, capsys: pytest.CaptureFixture[str]) -> str:
    call_command("take_into_use")
    installation.forget()
    return capsys.readouterr().out.split("/begin#")[1].strip()


def test_the_link_makes_the_first_consultant_who_is_signed_in_and_is_used_up(client: Client, key: str) -> None:
    answer = begin(client, key)
    assert answer.status_code == 200 and answer.json()["consultant"]
    person = Person.objects.get()
    assert (person.email, person.practice.name, person.is_consultant) == ("wren@example.com", "Hale Follow-up", True)
    assert client.get("/api/practice/").json() == {"name": "Hale Follow-up", "accounts": [], "deleted": []}
    again = begin(Client(), key, email="other@example.com")
    assert again.status_code == 403 and "used up" in again.json()["detail"]
    assert Person.objects.count() == 1


@pytest.mark.parametrize(
    ("changes", "field"),
    [({"password": "password123"}, "password"), ({"name": " "}, "name"), ({"email": "nobody"}, "email")],
)
def test_what_cannot_be_is_said_by_its_field_and_the_link_still_holds(
    client: Client, key: str, changes: dict[str, str], field: str
) -> None:
    answer = begin(client, key, **changes)
    assert answer.status_code == 422 and list(answer.json()["faults"]) == [field]
    assert not Person.objects.exists() and not Practice.objects.exists()
    assert begin(client, key).status_code == 200


def test_no_other_key_and_no_other_page_begins(client: Client, key: str, monkeypatch: pytest.MonkeyPatch) -> None:
    assert begin(client, key[:-1] + ("A" if key[-1] != "A" else "B")).status_code == 403
    body = json.dumps({**SAID, "key": key})
    foreign = client.post(
        "/api/session/first", body, content_type="application/json", headers={"Sec-Fetch-Site": "cross-site"}
    )
    assert foreign.status_code == 403
    monkeypatch.setattr(first_run, "LASTS", -first_run.LASTS)
    assert begin(client, key).status_code == 403
    assert not Person.objects.exists()
