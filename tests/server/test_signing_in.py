"""Signing in: second steps, new passwords, sessions that are ended, places that are new; and nothing that tells who is known."""

import base64
import json
import re
import time
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import allauth
import pytest
from allauth.account.models import EmailAddress
from allauth.mfa.models import Authenticator
from allauth.mfa.totp.internal.auth import format_hotp_value, hotp_value
from django.db import connection
from django.test import Client

from bluffside.server.capture import leads
from bluffside.server.hooks.signing import make_anew
from bluffside.server.outside.models import Item
from bluffside.server.practice.connections import put_in
from bluffside.server.practice.models import Person, StaffMail
from bluffside.server.practice.sealing import CannotUnseal, seal, unseal
from bluffside.server.signing_in.mails import MAILS
from bluffside.server.signing_in.sessions import browser
from bluffside.server.worker import until_quiet
from tests.server.conftest import House

PASSWORD = "long-enough-1"
FIREFOX = "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"


class Visitor:
    """A browser that speaks to the routes of signing in; answers status and data."""

    def __init__(self, **said: str) -> None:
        self.client = Client(**{"HTTP_USER_AGENT": FIREFOX, **said})  # type: ignore[arg-type]

    def __call__(self, way: str, path: str, body: Any = None) -> tuple[int, Any]:
        given = {} if body is None else {"data": json.dumps(body), "content_type": "application/json"}
        answer = getattr(self.client, way.lower())(f"/_allauth/browser/v1/{path}", **given)
        return answer.status_code, answer.json()

    def sign_in(self, email: str = "imogen@example.com", password: str = PASSWORD) -> tuple[int, list[str]]:
        status, data = self("POST", "auth/login", {"email": email, "password": password})
        return status, [flow["id"] for flow in data.get("data", {}).get("flows", []) if flow.get("is_pending")]

    def may(self) -> bool:
        return self.client.get("/api/accounts/sailing/today").status_code == 200


def code_of(secret: str, at: float | None = None) -> str:
    return str(format_hotp_value(hotp_value(secret, int((at or time.time()) // 30))))


def with_app(visitor: Visitor) -> str:
    """Sets an authenticator app up; answers its secret."""
    status, data = visitor("GET", "account/authenticators/totp")
    assert status == 404 and data["meta"]["picture"].startswith("data:image/svg+xml")
    secret: str = data["meta"]["secret"]
    assert visitor("POST", "account/authenticators/totp", {"code": code_of(secret)})[0] == 200
    return secret


def mailed() -> list[Item]:
    until_quiet()
    return list(Item.objects.filter(ours="bluffside@bluffside.example").order_by("id"))


def test_codes_are_those_of_the_standard() -> None:
    """RFC 6238, appendix B, SHA-1, the last six of its eight digits."""
    secret = base64.b32encode(b"12345678901234567890").decode()
    vectors = {59: "287082", 1111111109: "081804", 1111111111: "050471", 1234567890: "005924", 2000000000: "279037"}
    assert {at: code_of(secret, at) for at in vectors} == vectors


def test_whoever_has_a_second_step_is_asked_for_it_and_a_recovery_code_is_worth_it_once(house: House) -> None:
    visitor = Visitor()
    assert visitor.sign_in() == (200, [])
    secret = with_app(visitor)
    codes = visitor("GET", "account/authenticators/recovery-codes")[1]["data"]["unused_codes"]
    assert len(codes) == 10
    other = Visitor()
    assert other.sign_in() == (401, ["mfa_authenticate"]) and not other.may()
    assert other("POST", "auth/2fa/authenticate", {"code": "000000"})[0] == 400 and not other.may()
    assert other("POST", "auth/2fa/authenticate", {"code": codes[0]})[0] == 200 and other.may()
    third = Visitor()
    third.sign_in()
    assert third("POST", "auth/2fa/authenticate", {"code": codes[0]})[0] == 400 and not third.may()
    Authenticator.objects.filter(type="totp").update(last_used_at=None)
    assert third("POST", "auth/2fa/authenticate", {"code": code_of(secret, time.time() + 30)})[0] == 200 and third.may()


def test_codes_are_not_guessed(house: House) -> None:
    visitor, guesser = Visitor(), Visitor()
    visitor.sign_in()
    secret = with_app(visitor)
    guesser.sign_in()
    wrong = "000000" if code_of(secret) != "000000" else "000001"
    for _ in range(5):
        assert guesser("POST", "auth/2fa/authenticate", {"code": wrong})[0] == 400
    Authenticator.objects.filter(type="totp").update(last_used_at=None)
    status, said = guesser("POST", "auth/2fa/authenticate", {"code": code_of(secret, time.time() + 30)})
    assert status == 400 and said["errors"][0]["message"].startswith("Too many tries") and not guesser.may()


def test_a_practice_demands_a_second_step_and_nothing_else_is_open_without(house: House) -> None:
    visitor = Visitor()
    visitor.sign_in()
    put = visitor.client.put("/api/practice/second-step", {"demanded": True}, content_type="application/json")
    assert put.status_code == 200
    assert not visitor.may() and visitor.client.get("/api/session").json()["second_step"]
    assert visitor.client.get("/api/practice/people").status_code == 403
    assert visitor.client.get("/api/myself").json()["demanded"]
    with_app(visitor)
    assert visitor.may() and not visitor.client.get("/api/session").json()["second_step"]
    assert visitor("DELETE", "account/authenticators/totp")[0] == 200
    assert not visitor.may()  # until there is another


def test_a_new_password_by_mail_ends_every_other_session_and_nothing_tells_who_is_known(house: House) -> None:
    stolen, visitor = Visitor(), Visitor()
    stolen.sign_in()
    assert stolen.may()
    answers = [
        visitor("POST", "auth/password/request", {"email": email})
        for email in ("imogen@example.com", "nobody@example.com")
    ]
    assert answers[0] == answers[1] and answers[0][0] == 200
    [mail] = mailed()
    assert mail.theirs == "imogen@example.com"
    key = re.search(r"/new-password#(\S+)", mail.text)[1]  # type: ignore[index]
    assert visitor("POST", "auth/password/reset", {"key": key, "password": "short"})[0] == 400
    assert (
        visitor("POST", "auth/password/reset", {"key": key, "password": "slack-water-9"})[0] == 401
    )  # set; not signed in
    assert visitor("POST", "auth/password/reset", {"key": key, "password": "slack-water-8"})[0] == 400  # once
    assert not stolen.may()
    assert Visitor().sign_in()[0] == 400
    assert Visitor().sign_in(password="slack-water-9")[0] == 200
    assert [one.subject for one in mailed()] == ["A new password", "You have a new password"]


def test_an_ended_session_is_dead_on_its_next_request_also_for_a_page_that_only_listens(house: House) -> None:
    stolen, visitor = Visitor(HTTP_USER_AGENT="curl"), Visitor()
    for one in (stolen, visitor):
        one.sign_in()
    pulse = "/api/accounts/sailing/pulse"
    assert stolen.client.get(pulse).status_code == 200
    sessions = visitor("GET", "auth/sessions")[1]["data"]
    assert sorted(one["is_current"] for one in sessions) == [False, True]
    [other] = [one["id"] for one in sessions if not one["is_current"]]
    assert visitor("DELETE", "auth/sessions", {"sessions": [other]})[0] == 200
    assert stolen.client.get(pulse).status_code == 401 and not stolen.may()
    assert visitor.client.get(pulse).status_code == 200 and visitor.may()


def test_a_place_that_is_new_is_told_by_mail_and_one_that_is_known_is_not(house: House, settings: Any) -> None:
    settings.BLUFFSIDE_PROXIES = 1
    for address in ("198.51.100.1", "198.51.100.77", "203.0.113.9", "203.0.113.9"):
        Visitor(HTTP_X_FORWARDED_FOR=address).sign_in()
    [mail] = mailed()
    assert mail.subject == "You signed in from somewhere new"
    assert "203.0.113.9" in mail.text and "Firefox on Linux" in mail.text
    assert browser("") == "an unknown browser"


def test_another_address_is_signed_in_with_once_it_is_confirmed(house: House) -> None:
    visitor = Visitor()
    visitor.sign_in()
    assert visitor("POST", "account/email", {"email": "wren@example.com"})[0] == 200
    unsure = Visitor()
    assert unsure.sign_in("wren@example.com")[0] != 200 and not unsure.may()
    key = unquote(re.search(r"/confirm#(\S+)", mailed()[-1].text)[1])  # type: ignore[index]
    assert Visitor()("POST", "auth/email/verify", {"key": key})[0] == 401  # confirmed; that does not sign in
    assert Visitor().sign_in("wren@example.com")[0] == 200 and Visitor().sign_in()[0] == 400
    assert Person.objects.get(id=house.consultant.id).email == "wren@example.com"


def test_a_lost_second_step_is_taken_away_by_a_consultant(house: House) -> None:
    person = house.member
    person.set_password(PASSWORD)
    person.save()
    lost, helper = Visitor(), Visitor()
    assert lost.sign_in(person.email) == (200, [])
    with_app(lost)
    helper.sign_in()
    answer = helper.client.delete(f"/api/practice/people/{person.id}/second-steps")
    assert answer.status_code == 200
    assert not lost.may() and Visitor().sign_in(person.email) == (200, [])
    assert mailed()[-1].subject == "You can sign in with your password alone"
    assert lost.client.delete(f"/api/practice/people/{house.consultant.id}/second-steps").status_code == 401


def test_nobody_signs_up_by_themselves(house: House) -> None:
    body = {"email": "new@example.com", "password": "slack-water-9"}
    assert (
        Visitor()("POST", "auth/signup", body)[0] == 403
        and not EmailAddress.objects.filter(email=body["email"]).exists()
    )


def test_no_secret_lies_in_the_database(house: House) -> None:
    """Every text of every table is searched for what opens a door."""
    visitor = Visitor()
    visitor.sign_in()
    secret = with_app(visitor)
    codes = visitor("GET", "account/authenticators/recovery-codes")[1]["data"]["unused_codes"]
    visitor("POST", "auth/password/request", {"email": "imogen@example.com"})
    waiting = unseal(StaffMail.objects.get(subject="A new password").sealed)
    key = re.search(r"/new-password#(\S+)", waiting)[1]  # type: ignore[index]
    put_in(house.sailing, "host", "berths.example.com", "Authorization", "Bearer tide-table", house.consultant)
    others = ["tide-table", make_anew(house.sailing, house.consultant), leads.make(house.sailing, "Advert").secret]
    with connection.cursor() as cursor:
        tables = [name for name in connection.introspection.table_names(cursor) if name != "django_session"]
        dump = ""
        for table in tables:
            cursor.execute(f'SELECT t::text FROM "{table}" t')
            dump += "\n".join(row[0] for row in cursor.fetchall())
    assert "imogen@example.com" in dump
    assert not [one for one in (secret, key, PASSWORD, *codes) if one in dump]
    assert not [one for one in others if one in dump]
    mailed()
    assert StaffMail.objects.filter(sealed="").count() == StaffMail.objects.count() > 0


def test_what_was_sealed_is_read_with_an_older_key_and_by_nobody_else(settings: Any) -> None:
    sealed = seal("slack water")
    assert "slack" not in sealed and unseal(sealed) == "slack water" and unseal(seal("")) == ""
    settings.SECRET_KEY_FALLBACKS = [settings.SECRET_KEY]
    settings.SECRET_KEY = "another"
    assert unseal(sealed) == "slack water"
    settings.SECRET_KEY_FALLBACKS = []
    with pytest.raises(CannotUnseal):
        unseal(sealed)


def test_every_mail_that_the_library_can_write_has_words_of_ours() -> None:
    sources = (Path(allauth.__file__).parent / part for part in ("account", "mfa"))
    said = {
        name
        for source in sources
        for path in source.rglob("*.py")
        for name in re.findall(r'"((?:account|mfa)/email/\w+)"', path.read_text())
    }
    not_used = {name for name in said if "code" in name and "recovery" not in name} | {"account/email/unknown_account"}
    assert said - not_used <= set(MAILS) and len(said - not_used) > 10
