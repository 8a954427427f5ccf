"""Whatever is asked of the API, it answers in words: each route is asked with bodies that its schema allows, of odd text,
numbers, dates and depth. Django's test client raises what would be an answer of 500."""

import json
from typing import Any

import pytest
from django.db import transaction
from django.test import Client
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.server.api import api
from bluffside.server.capture import forms, leads
from bluffside.server.capture.models import IncomingRule
from bluffside.server.messaging.inbound import take_mail
from bluffside.server.messaging.links import unsubscribe_token
from bluffside.server.messaging.models import Sender
from bluffside.server.people import imports, sorting
from bluffside.server.people.models import Contact
from bluffside.server.people.signed import preferences_link
from bluffside.server.practice import clock
from bluffside.server.segments.models import Segment
from tests.core.test_hostile_documents import DOCUMENTS, HOSTILE, mutated
from tests.server.conftest import House
from tests.server.test_walls import values_for

SCHEMA = api.get_openapi_schema(path_prefix="/api/")
TEXTS = [
    "",
    " ",
    "\0",
    "x",
    "Ana",
    "é" * 40,
    "x" * 5_000,
    "{{ contact.first_name",
    "{% for %}",
    "%_\\'\"",
    "=1+1",
    "\u202e",
    "2026-02-31",
    "p1@example.com",
    "07700 900001",
    "1",
    "tag",
]
NUMBERS = [0, 1, -1, 7, 10**6, 2**31, 2**63, 10**30]
ROUTES = [
    (method, path, one["requestBody"]["content"].get("application/json", {}).get("schema"))
    for path, methods in SCHEMA["paths"].items()
    if "{account}" in path
    for method, one in methods.items()
    if "application/json" in one.get("requestBody", {"content": {}})["content"]
]  # fmt: skip


def body(schema: dict[str, Any], depth: int = 0) -> st.SearchStrategy[Any]:
    """What the schema allows, and at its edges a little of what it does not."""
    if "$ref" in schema:
        return st.deferred(lambda: body(SCHEMA["components"]["schemas"][schema["$ref"].rpartition("/")[2]], depth + 1))
    if "const" in schema or "enum" in schema:
        return st.sampled_from(schema.get("enum") or [schema["const"]])
    for some in ("anyOf", "oneOf", "allOf"):
        if some in schema:
            ones = [one for one in schema[some] if depth < 4 or "$ref" not in one] or schema[some][:1]
            return st.one_of([body(one, depth) for one in ones])
    match schema.get("type"):
        case "object":
            own, needed = schema.get("properties", {}), schema.get("required", [])
            free = schema.get("additionalProperties")
            if isinstance(free, dict) and not own:
                return st.dictionaries(st.sampled_from(TEXTS), body(free, depth + 1), max_size=2)
            return st.fixed_dictionaries(
                {name: body(own[name], depth) for name in needed},
                optional={name: body(one, depth) for name, one in own.items() if name not in needed},
            )
        case "array":
            return st.lists(body(schema.get("items", {}), depth + 1), max_size=2 if depth < 4 else 0)
        case "string":
            return text(schema)
        case "integer" | "number":
            low, high = schema.get("minimum", -(10**30)), schema.get("maximum", 10**30)
            fit = [one for one in NUMBERS if low <= one <= high] or [low]
            return st.sampled_from([*fit, *([0.5] if schema["type"] == "number" else [])])
        case "boolean":
            return st.booleans()
        case "null":
            return st.none()
    return st.sampled_from([None, True, 5, "x", ["x"], {"x": "\0"}])


def text(schema: dict[str, Any]) -> st.SearchStrategy[str]:
    if schema.get("format") in ("date", "date-time"):
        moments = ["0001-01-01", "9999-12-31", "2026-03-29"]
        return st.sampled_from(moments if schema["format"] == "date" else [f"{one}T01:30:00Z" for one in moments])
    most = schema.get("maxLength", 10**6)
    return st.sampled_from([one[:most] for one in TEXTS if len(one[:most]) >= schema.get("minLength", 0)])


def made(house: House) -> dict[str, int]:
    """One of each thing that stands in an address."""
    account, by = house.sailing, house.consultant
    imported = imports.read_file(account, by, "people.csv", b"Name,Email\nAna Reyes,ana@example.com\n")
    return {
        "form_id": forms.make(account, "Open day").id,
        "source_id": leads.make(account, "Advert").pk,
        "field_id": sorting.keep_field(account, "Boat", "text", [], by).id,
        "tag_id": sorting.keep_tag(account, "crew", "", by).id,
        "segment_id": Segment.objects.create(
            account=account, name="Crew", condition={"test": "tag", "tag": "crew"}, by=by, made_at=clock.now()
        ).pk,
        "rule_id": IncomingRule.objects.create(
            account=account, position=1, channels=["text"], match="is", words=["sail"], acts={}
        ).pk,
        "import_id": imported.pk,
    }


@pytest.mark.parametrize(("method", "path", "schema"), ROUTES, ids=lambda one: one if isinstance(one, str) else "")
def test_no_body_makes_a_route_fail_without_a_sentence(
    house: House, signed_in: Any, method: str, path: str, schema: dict[str, Any]
) -> None:
    client, own = signed_in(house.consultant), values_for(house) | made(house)

    @given(given=body(schema))
    @settings(max_examples=8, deadline=None, suppress_health_check=list(HealthCheck))
    def ask(given: Any) -> None:
        with transaction.atomic():
            answer = client.generic(
                method.upper(), path.format(**own), json.dumps(given), content_type="application/json"
            )
            assert answer.status_code < 500
            if answer.status_code >= 400:
                assert answer.json()["detail"]
            transaction.set_rollback(True)

    ask()


@pytest.mark.parametrize("path", ["read", "rehearse", "scenarios", "workflows/{id}/draft"])
def test_whatever_stands_in_a_document_the_page_is_answered_in_words(house: House, api: Any, path: str) -> None:
    workflow = house.workflow()

    @given(mutated(DOCUMENTS), st.none() | st.sampled_from([one for one in HOSTILE if one is not None]))
    @settings(max_examples=20, deadline=None, suppress_health_check=list(HealthCheck))
    def ask(document: Any, start: Any) -> None:
        body = document if path == "scenarios" else {"document": document, "revision": 1, "start": start}
        with transaction.atomic():
            status, data = api("PUT" if "draft" in path else "POST", path.format(id=workflow.id), body)
            assert status < 500 and (status < 400 or "Value error" not in data["detail"])
            transaction.set_rollback(True)

    ask()


def test_a_body_that_says_two_things_is_refused(house: House, signed_in: Any) -> None:
    client = signed_in(house.consultant)
    answer = client.post(
        "/api/accounts/sailing/workflows", '{"name": "a", "name": "b"}', content_type="application/json"
    )
    assert (answer.status_code, "“name” stands twice" in answer.json()["detail"]) == (400, True)


@pytest.mark.parametrize(
    "path", ["/f/%00", "/in/%00", "/p/%00", "/u/%00", "/l/%00", "/api/accounts/%00/tags", "/f/x?source=%00"]
)
def test_no_address_makes_a_page_fail(db: None, path: str) -> None:
    assert Client().get(path).status_code == 404
    assert Client().post(path, {"page": "x"}).status_code == 404


def test_a_number_or_character_that_cannot_be_kept_is_said(committed_house: House, signed_in: Any) -> None:
    client = signed_in(committed_house.consultant)
    for who in ({"q": "\0"}, {"tag": "\0"}, {"ids": [10**30, -1]}, {"where": {"test": "count", "number": 10**30}}):
        answer = client.post("/api/accounts/sailing/contacts/find", {"who": who}, content_type="application/json")
        assert (answer.status_code, bool(answer.json().get("detail"))) in ((422, True), (200, False))
    assert client.get("/api/accounts/sailing/tags").status_code == 200  # the connection is well


# ---- what the world can send

ODD = [
    b"", b"\x00", b"\\u0000", b'{"a": "\\\\u0000"}', b'{"email": "a\\u0000@example.com"}', b'{"email": "\\ud800@example.com"}',
    b'{"n": 1e999}', b'{"n": NaN}', b'{"email": {"email": []}}', b"[" * 5_000, b'{"email": ' * 2_000, b"\xff\xfe", b"a=%00&a=%FF",
    b"email=a%00@example.com", b'{"account": {}}', b'{"account": "sailing"}', b'{"account": "\\u0000"}', b"&" * 2_000, b"x" * 200_000,
]  # fmt: skip
KINDS = ["application/json", "application/x-www-form-urlencoded", "text/plain; charset=\xff", "multipart/form-data", ""]
SIGNED = ["", "\xff", "v1,AAAA", "²"]


@given(
    st.sampled_from(ODD) | st.binary(max_size=80),
    st.sampled_from(KINDS),
    st.sampled_from(SIGNED),
    st.sampled_from(SIGNED),
)
@settings(max_examples=20, deadline=None, suppress_health_check=list(HealthCheck))
def test_no_bytes_make_a_public_address_fail(house: House, body: bytes, kind: str, when: str, signed: str) -> None:
    form, source = forms.make(house.sailing, "Open day"), leads.make(house.sailing, "Advert")
    source.matching = {"fields": [{"path": "email", "fills": "email"}]}
    source.save()
    contact = house.contact(7)
    own = preferences_link(house.sailing.id, contact.id).removeprefix("http://127.0.0.1:8000")
    headers = {"webhook-id": signed, "webhook-timestamp": when, "webhook-signature": signed, "Idempotency-Key": signed}
    for path in (f"/f/{form.token}", f"/in/{source.secret}", own, f"/u/{unsubscribe_token(house.sailing.id, contact.id)}",
                 "/l/1.1.1.x", "/outside/anything", "/outside/series", "/api/session"):  # fmt: skip
        with transaction.atomic():
            answer = Client().generic("POST", path, body, content_type=kind, headers=headers)
            assert answer.status_code < 500, (path, answer.status_code)
            transaction.set_rollback(True)
    Contact.objects.all().delete()
    form.delete(), source.delete()


ODD_HEADERS = [
    b"From: <", b"From: \xff\xfe <a@example.com>", b"From: =?utf-8?q?=00?= <a\x00@example.com>", b"From: a@example.com, b@example.com",
    b"Message-ID: <>", b"Message-ID: <<<>", b"Message-ID: \x00", b"Subject: =?\x00?q?x?=", b"Subject: =?utf-8?b?////?=",
    b"In-Reply-To: <" + b"x" * 3_000, b"References: " + b"<a@b> " * 2_000, b"Auto-Submitted: \xff",
    b"Content-Type: text/plain; charset=\"a\x00b\"", b"Content-Type: text/html; charset=utf-99", b"Content-Type: multipart/mixed",
    b"Content-Type: multipart/report; boundary=x", b"Content-Transfer-Encoding: base64", b"Content-Transfer-Encoding: \x00",
]  # fmt: skip


@given(st.lists(st.sampled_from(ODD_HEADERS), max_size=5, unique=True), st.sampled_from(ODD) | st.binary(max_size=60))
@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
def test_no_mail_is_brought_for_ever(house: House, heads: list[bytes], body: bytes) -> None:
    """An exception would be answered 451, and the mail brought again and again."""
    address = (
        Sender.objects.filter(channel="email").values_list("address", flat=True).first() or house.sailing.sender_email
    )
    assert take_mail(b"\r\n".join([*heads, b"", body]), [address])
