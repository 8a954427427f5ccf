"""Senders: an address is confirmed before it is used, one is usual for what, and emails are signed by their domain's key."""

import re
from typing import Any

import dkim
import pytest

from bluffside.server.messaging import domains
from bluffside.server.messaging.carrier import Parcel
from bluffside.server.messaging.models import Message, Sender
from bluffside.server.messaging.parcels import Senders, parcel
from bluffside.server.messaging.smtp import POLICY, compose
from bluffside.server.outside.models import Item
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, AuditEntry
from bluffside.server.set_up import senders
from bluffside.server.worker import until_quiet
from tests.server.conftest import House


def code_mailed_to(address: str) -> str:
    until_quiet()
    text = Item.objects.filter(theirs=address).latest("id").text
    return re.search(r"an hour: (\d{6})", text)[1]  # type: ignore[index]


def added(api: Any, address: str = "crew@sailing.example.com", shown: str = "The crew") -> dict[str, Any]:
    status, data = api("POST", "set-up/senders", {"channel": "email", "address": address, "shown_as": shown})
    assert status == 200
    found: dict[str, Any] = next(one for one in data["senders"] if one["written"] == address)
    return found


def test_nothing_comes_from_an_address_before_its_code_was_typed(house: House, api: Any) -> None:
    senders.adopt(house.sailing)
    one = added(api)
    assert not one["confirmed"] and one["usual_for"] == []
    way = f"set-up/senders/{one['id']}"
    assert api("PATCH", way, {"usual_for": ["marketing"]})[0] == 422
    wrong = api("POST", f"{way}/confirm", {"code": "nothing"})
    assert wrong[0] == 422 and "not the code" in wrong[1]["detail"]
    assert ("email", one["name"]) not in Senders(house.sailing).named
    assert api("POST", f"{way}/confirm", {"code": code_mailed_to(one["written"])})[0] == 200
    named = Senders(house.sailing).of("email", one["name"], "service")
    assert named and named.address == one["written"]
    told = AuditEntry.objects.filter(area="senders").order_by("id").values_list("what", "old", "new")
    assert list(told) == [(one["written"], "", "added"), (one["written"], "not confirmed", "confirmed")]


def test_a_code_is_not_guessed_and_runs_out(house: House, api: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    way = f"set-up/senders/{added(api)['id']}"
    code = code_mailed_to("crew@sailing.example.com")
    for _ in range(senders.MOST_TRIES):
        assert api("POST", f"{way}/confirm", {"code": "x"})[0] == 422
    assert "run out" in api("POST", f"{way}/confirm", {"code": code})[1]["detail"]
    assert api("POST", f"{way}/code")[0] == 200
    fresh = code_mailed_to("crew@sailing.example.com")
    later = clock.now() + senders.CODE_HOLDS * 2
    with monkeypatch.context() as patch:
        patch.setattr(clock, "now", lambda: later)
        assert "run out" in api("POST", f"{way}/confirm", {"code": fresh})[1]["detail"]
    assert api("POST", f"{way}/confirm", {"code": fresh})[0] == 200


def test_what_names_no_sender_comes_from_the_one_that_is_usual_for_its_purpose(house: House, api: Any) -> None:
    senders.adopt(house.sailing)
    one = added(api, shown="News from Sailing")
    way = f"set-up/senders/{one['id']}"
    api("POST", f"{way}/confirm", {"code": code_mailed_to(one["written"])})
    status, data = api("PATCH", way, {"usual_for": ["marketing"], "reply_to": "desk@example.com"})
    assert status == 200
    assert {tuple(sender["usual_for"]) for sender in data["senders"] if sender["channel"] == "email"} == {
        ("marketing",),
        ("service",),
    }
    contact = house.contact()
    found = {}
    for purpose in ("marketing", "service"):
        message = Message(
            account=house.sailing, contact=contact, key=purpose, channel="email", purpose=purpose,
            address="a@example.com", subject="S", body="B", next_try_at=clock.now(), queued_at=clock.now(), pk=1,
        )  # fmt: skip
        found[purpose] = parcel(message, house.sailing, Senders(house.sailing), senders_care(house))
    assert (found["marketing"].sender, found["marketing"].sender_name) == (one["written"], "News from Sailing")
    assert ("Reply-To", "desk@example.com") in found["marketing"].headers
    assert found["service"].sender == "hello@sailing.example.com"
    assert api("PATCH", way, {"usual_for": ["service"]})[0] == 200
    house.sailing.refresh_from_db()
    assert (house.sailing.sender_email, house.sailing.sender_name) == (one["written"], "News from Sailing")
    assert api("DELETE", way)[0] == 422  # the usual one stays


def senders_care(house: House) -> Any:
    from bluffside.server.people.queries import account_facts

    return account_facts(house.sailing).care


def test_emails_are_signed_by_the_key_that_dns_is_told(house: House, api: Any) -> None:
    """RFC 6376 by dkimpy, with the record that the page gives to copy."""
    senders.adopt(house.sailing)
    status, data = api("PUT", "set-up/domains/sailing.example.com", {"signs": True})
    assert status == 200
    said = {one["name"]: one["text"] for one in data["domains"][0]["records"]}
    assert said["sailing.example.com"].startswith("v=spf1 ") and said["_dmarc.sailing.example.com"].startswith(
        "v=DMARC1; p=none"
    )
    signing = Senders(house.sailing).signing["sailing.example.com"]
    mail = compose(
        Parcel(
            "k",
            "email",
            "hello@sailing.example.com",
            "Sailing",
            "a@example.com",
            "S",
            "Words\n",
            headers=(("Reply-To", "d@example.com"),),
        ),
        clock.now(),
    )
    wire = domains.signed(mail.as_bytes(policy=POLICY), signing)
    asked: list[str] = []

    def dns(name: bytes, **_: Any) -> bytes:
        asked.append(name.decode().rstrip("."))
        return said[asked[-1]].encode()

    assert dkim.verify(wire, dnsfunc=dns) and asked == ["bluffside._domainkey.sailing.example.com"]
    assert not dkim.verify(wire.replace(b"Reply-To: d@", b"Reply-To: e@"), dnsfunc=dns)
    assert "PRIVATE KEY" not in house.sailing.sender_domains.get().key_sealed
    assert api("PUT", "set-up/domains/sailing.example.com", {"signs": False})[0] == 200
    assert not Senders(house.sailing).signing
    assert api("PUT", "set-up/domains/other.example.com", {"signs": True})[0] == 404


def test_what_each_sender_has_done_is_counted(house: House, api: Any) -> None:
    senders.adopt(house.sailing)
    contact = house.contact()
    for number, (state, sender) in enumerate([("delivered", ""), ("failed", ""), ("delivered", "+447700900900")]):
        Message.objects.create(
            account=house.sailing, contact=contact, key=f"k{number}", channel="text", purpose="service", sender=sender,
            address="+447700900001", body="B", state=state, next_try_at=clock.now(), queued_at=clock.now(), sent_at=clock.now(),
        )  # fmt: skip
    rows = api("GET", "set-up/senders")[1]["senders"]
    text = next(one for one in rows if one["channel"] == "text")
    assert text["done"] == {"sent": 3, "arrived": 2, "failed": 1, "answers": 0}


def test_what_stood_in_the_account_alone_becomes_a_sender_once(house: House) -> None:
    for _ in range(2):
        senders.adopt(house.sailing)
    assert sorted(Sender.objects.values_list("channel", "address")) == [
        ("email", "hello@sailing.example.com"),
        ("text", "+447700900900"),
    ]
    assert Account.objects.get(slug="sailing").sender_email == "hello@sailing.example.com"
