"""Connections: each tells by itself how it stands; switched off, broken or silent it is known before publishing and on Today; what
waits for it is not lost; its secrets are put in and never shown."""

import json
from collections.abc import Sequence
from datetime import timedelta
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.server.capture import leads
from bluffside.server.capture.models import Lead
from bluffside.server.diary.models import Notice
from bluffside.server.events.stream import Cause
from bluffside.server.hooks.models import Call
from bluffside.server.messaging.carrier import TAKEN, Answer, Parcel
from bluffside.server.messaging.models import Message, StrangerMail
from bluffside.server.outside.carrier import SimulatedCarrier
from bluffside.server.outside.models import Item
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import AuditEntry, Connection
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from tests.server.conftest import House
from tests.server.receiving import Receiver, allow
from tests.server.test_hooks import ask
from tests.server.test_leads import lead_of

HOST = {"kind": "host", "name": "127.0.0.1"}


def one(api: Any, kind: str, name: str) -> dict[str, Any]:
    status, data = api("GET", "set-up/connections")
    assert status == 200
    found: dict[str, Any] = next(row for row in data["connections"] if (row["kind"], row["name"]) == (kind, name))
    return found


def checks(api: Any, workflow_id: int) -> list[tuple[str, str]]:
    _, workflow = api("GET", f"workflows/{workflow_id}")
    _, read = api("POST", "read", {"document": workflow["document"], "workflow_id": workflow_id})
    return [
        (found["severity"], found["sentence"])
        for found in read["reading"]["checks"]
        if found["code"] == "not-connected"
    ]


def texted(house: House) -> None:
    house.workflow()
    for number in (1, 2):
        contact = house.contact(number)
        Message.objects.create(
            account=house.sailing, contact=contact, key=f"k{number}", channel="text", address=contact.mobile, body="Hi",
            queued_at=clock.now(), next_try_at=clock.now(),
        )  # fmt: skip


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(dids=st.lists(st.sampled_from(["works", "nothing", "refuses"]), min_size=1, max_size=12))
def test_a_connection_is_broken_when_it_refuses_or_says_nothing_three_times_and_works_at_once_when_it_answers(
    house: House, dids: Sequence[connections.Did]
) -> None:
    """Against the rule written out over the whole history."""
    Connection.objects.all().delete()
    for did in dids:
        connections.heard(house.sailing, "channel", "text", did, f"said {did}")
    since = list(dids)
    while "works" in since:
        since = since[since.index("works") + 1 :]
    broken = "refuses" in since or len(since) >= connections.MOST_IN_VAIN
    row = Connection.objects.get()
    assert bool(row.fault) == broken
    assert connections.why_out_of_order(row).startswith("Texts: it does not work (said ") == broken


def test_a_channel_that_is_away_is_known_to_the_checks_and_today_and_works_again_by_itself(
    house: House, api: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert one(api, "channel", "text")["state"] == "unused"
    texted(house)
    with monkeypatch.context() as away:
        away.setattr(
            SimulatedCarrier, "hand_over", lambda _, parcels: [Answer("away", "it lets nobody in")] * len(parcels)
        )
        until_quiet()
        row = one(api, "channel", "text")
        assert (row["state"], row["said"], row["waiting"]) == ("broken", "it lets nobody in", 2)
        assert [used["name"] for used in row["used_by"]] == [house.sailing.workflows.get().name]
        [broken] = api("GET", "aside")[1]["broken"]
        assert (broken["name"], broken["count"]) == ("text", 2) and broken["again"]
        workflow = house.sailing.workflows.get()
        assert {severity for severity, _ in checks(api, workflow.id)} == {"error"}
        status, refused = api("POST", f"workflows/{workflow.id}/publish", {"revision": workflow.revision})
        assert status == 422 and "Texts: it does not work (it lets nobody in)." in json.dumps(refused)
    Message.objects.update(next_try_at=clock.now())
    until_quiet()
    assert one(api, "channel", "text")["state"] == "works"
    assert api("GET", "aside")[1]["broken"] == [] and checks(api, workflow.id) == []
    assert set(Message.objects.values_list("state", flat=True)) <= {"sent", "delivered"}


def test_what_comes_into_the_outbox_of_a_channel_that_is_off_stays_until_it_is_decided_upon(
    house: House, api: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    handed: list[str] = []

    def hand_over(carrier: Any, parcels: Sequence[Parcel]) -> list[Answer]:
        handed.extend(parcel.key for parcel in parcels)
        return [TAKEN] * len(parcels)

    monkeypatch.setattr(SimulatedCarrier, "hand_over", hand_over)
    which = {"kind": "channel", "name": "text"}
    texted(house)
    assert api("POST", "set-up/connections/switch", which | {"on": False})[0] == 200
    until_quiet()
    row = one(api, "channel", "text")
    assert (row["state"], row["off_by"], row["waiting"], handed) == ("off", "Imogen F", 2, [])
    assert "switched off by Imogen F" in checks(api, house.sailing.workflows.get().id)[0][1]
    assert api("GET", "aside")[1]["counts"] | {"held": 0, "held_back": 2} == api("GET", "aside")[1]["counts"]
    [held] = api("GET", "sending/held-back")[1]
    held = {name: held[name] for name in ("where", "name", "channel")}
    assert api("POST", "sending/decide", held | {"goes": True})[0] == 409
    assert api("POST", "set-up/connections/switch", which | {"on": True})[0] == 200
    until_quiet()
    assert handed == []  # two days later nobody wants all of it at once
    assert api("POST", "sending/decide", held | {"goes": True})[0] == 200
    until_quiet()
    assert len(handed) == 2 == len(set(handed))
    noted = AuditEntry.objects.filter(area="connections").order_by("id").values_list("what", "old", "new")
    assert list(noted) == [("Texts", "on", "off"), ("Texts", "off", "on")]


def test_requests_wait_for_a_key_that_is_taken_and_go_when_it_is_put_in(
    house: House, api: Any, receiver: Receiver
) -> None:
    allow(house.sailing, "127.0.0.1")
    assert api("PUT", "set-up/connections/key", HOST | {"key": "old"})[0] == 404  # nothing asks it yet
    ask(house, f"{receiver.url}/in")
    assert api("PUT", "set-up/connections/key", HOST | {"key": "old"})[0] == 200
    Call.objects.all().delete()
    receiver.answers = [(401, {}, "this key was withdrawn")] * 30
    workflow = house.sailing.workflows.get()
    enrolling.enrol(workflow, [house.contact(2).id], "test", Cause())
    until_quiet()
    assert receiver.asked[-1][2]["Authorization"] == "Bearer old"
    row = one(api, "host", "127.0.0.1")
    assert (row["state"], row["said"], row["needs_key"], row["waiting"]) == (
        "broken",
        "401: this key was withdrawn",
        True,
        1,
    )
    Call.objects.update(attempts=50, next_try_at=clock.now())
    until_quiet()
    assert Call.objects.get().state == "queued"  # for days: it is the key that is to be mended
    receiver.answers = []
    assert api("PUT", "set-up/connections/key", HOST | {"header": "X-Key", "key": "a-new-key"})[0] == 200
    until_quiet()
    assert (Call.objects.get().state, receiver.asked[-1][2]["X-Key"]) == ("answered", "a-new-key")
    row = one(api, "host", "127.0.0.1")
    assert (row["state"], row["key_header"]) == ("works", "X-Key") and row["key_at"]
    shown = json.dumps(api("GET", "set-up/connections")[1]) + json.dumps(api("GET", "set-up/changes")[1])
    assert "a-new-key" not in shown and "Bearer" not in shown
    sealed = Connection.objects.get(kind="host").key_sealed
    assert sealed and "a-new-key" not in sealed


def test_a_key_goes_to_its_host_alone_and_never_in_clear(house: House, api: Any, receiver: Receiver) -> None:
    other = Receiver()
    allow(house.sailing, "127.0.0.1")
    ask(house, f"{receiver.url}/in")
    api("PUT", "set-up/connections/key", HOST | {"key": "secret-key"})
    receiver.answers = [(307, {"Location": f"{other.url.replace('127.0.0.1', 'localhost')}/next"}, "")]
    allow(house.sailing, "127.0.0.1", "localhost")
    assert api("POST", "set-up/connections/test", HOST)[0] == 200
    until_quiet()
    assert "Authorization" in receiver.asked[-1][2] and "Authorization" not in other.asked[-1][2]
    other.server.shutdown()
    Connection.objects.create(
        account=house.sailing, kind="host", name="berths.example.com", key_sealed="x", key_header="Y"
    )
    house.workflow(steps=[{"kind": "webhook", "id": "w", "url": "http://berths.example.com/in"}], name="Clear")
    api("PUT", "set-up/connections/key", {"kind": "host", "name": "berths.example.com", "key": "secret-key"})
    api("POST", "set-up/connections/test", {"kind": "host", "name": "berths.example.com"})
    until_quiet()
    assert "does not go in clear" in one(api, "host", "berths.example.com")["said"]


def test_trying_a_host_changes_nothing_and_leaves_no_request_behind(house: House, api: Any, receiver: Receiver) -> None:
    allow(house.sailing, "127.0.0.1")
    ask(house, f"{receiver.url}/in")
    receiver.answers = [(405, {}, "only POST")]
    status, said = api("POST", "set-up/connections/test", HOST)
    assert (status, one(api, "host", "127.0.0.1")["testing"]) == (200, True)
    assert said["said"].startswith("It is being asked.")
    until_quiet()
    assert receiver.asked[-1][0] == "GET"
    row = one(api, "host", "127.0.0.1")
    assert (row["state"], row["testing"], row["failed"]) == ("works", False, 0)  # whoever refuses GET has answered
    assert Call.objects.count() == 1 and api("GET", "aside")[1]["counts"]["calls"] == 0


def test_requests_of_a_connection_that_is_off_wait_and_go_when_it_is_on(
    house: House, api: Any, receiver: Receiver
) -> None:
    allow(house.sailing, "127.0.0.1")
    asks = {"kind": "webhook", "id": "w", "url": f"{receiver.url}/in"}
    workflow = house.workflow(steps=[asks], starts=[{"kind": "by_hand"}], leaves_on=[])
    assert api("POST", "set-up/connections/switch", HOST | {"on": False})[0] == 200
    enrolling.enrol(workflow, [house.contact().id], "test", Cause())
    until_quiet()
    assert (Call.objects.get().state, receiver.asked, one(api, "host", "127.0.0.1")["waiting"]) == ("queued", [], 1)
    api("POST", "set-up/connections/switch", HOST | {"on": True})
    until_quiet()
    assert (Call.objects.get().state, len(receiver.asked)) == ("answered", 1)


def test_a_source_of_leads_goes_silent_and_a_switched_off_one_keeps_what_comes(
    house: House, api: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    source = leads.make(house.sailing, "Regatta advert")
    way = {"kind": "source", "name": source.name}
    source.matching = {"fields": [{"path": "email", "fills": "email"}]}
    source.save()
    assert api("POST", "set-up/connections/expected", way | {"days": 2})[0] == 200
    assert lead_of(f"/in/{source.secret}", {"email": "a@example.com"}).status_code == 202
    assert (one(api, **way)["state"], one(api, **way)["done"]) == ("works", 1)
    assert "a@example.com" in api("POST", "set-up/connections/test", way)[1]["said"]
    workflow = house.workflow(starts=[{"kind": "lead_received", "source": source.name}], name="From the advert")
    assert checks(api, workflow.id) == []
    later = clock.now() + timedelta(days=2, minutes=1)
    with monkeypatch.context() as patch:
        patch.setattr(clock, "now", lambda: later)
        assert one(api, **way)["state"] == "silent"
        assert checks(api, workflow.id) == [
            ("warning", "Leads from Regatta advert: nothing has come for more than 2 days.")
        ]
        assert [broken["name"] for broken in api("GET", "aside")[1]["broken"]] == [source.name]
    api("POST", "set-up/connections/switch", way | {"on": False})
    lead_of(f"/in/{source.secret}", {"email": "b@example.com"})
    row = one(api, **way)
    assert (row["state"], row["off_by"], row["waiting"]) == ("off", "Imogen F", 1)
    api("POST", "set-up/connections/switch", way | {"on": True})
    assert set(Lead.objects.values_list("state", flat=True)) == {"taken"}


def test_the_address_of_a_source_is_shown_once_and_another_ends_it(house: House, api: Any) -> None:
    _, made = api("POST", "lead-sources", {"name": "Advert"})
    way = f"lead-sources/{made['id']}"
    assert made["url"] and api("GET", way)[1]["url"] == ""
    _, again = api("POST", f"{way}/address")
    path = {name: one["url"][one["url"].index("/in/") :] for name, one in (("old", made), ("new", again))}
    assert lead_of(path["old"], {"email": "a@example.com"}).status_code == 404
    assert lead_of(path["new"], {"email": "a@example.com"}).status_code == 202
    api("POST", "set-up/connections/expected", {"kind": "source", "name": "Advert", "days": 9})
    api("PUT", f"{way}/name", {"name": "Summer advert"})
    assert one(api, "source", "Summer advert")["expected_days"] == 9


def test_mail_coming_in_is_tried_by_a_mail_that_goes_out_and_comes_back(house: House, api: Any) -> None:
    way = {"kind": "mail", "name": ""}
    assert api("POST", "set-up/connections/switch", way | {"on": False})[0] == 409  # what comes in is kept
    assert "hello@sailing.example.com" in api("POST", "set-up/connections/test", way)[1]["said"]
    assert (one(api, **way)["state"], one(api, **way)["testing"]) == ("unused", True)
    Item.objects.update(report_at=clock.now())
    until_quiet()
    row = one(api, **way)
    assert (row["state"], row["testing"], row["said"]) == ("works", False, "the test came in")
    assert not StrangerMail.objects.exists()


def test_a_test_of_a_channel_goes_to_who_asks(house: House, api: Any) -> None:
    way = {"kind": "channel", "name": "text"}
    status, said = api("POST", "set-up/connections/test", way)
    assert status == 409 and "no phone number of your own" in said["detail"]
    house.consultant.phone = "+447700900555"
    house.consultant.save()
    assert api("POST", "set-up/connections/test", way)[0] == 200
    assert Item.objects.get().theirs == "+447700900555" and one(api, **way)["state"] == "works"


def test_the_key_that_signs_is_shown_once(house: House, api: Any) -> None:
    status, made = api("POST", "set-up/connections/signing-key")
    house.sailing.refresh_from_db()
    assert status == 200 and made["key"].startswith("whsec_") and made["key"] not in house.sailing.signing_key_sealed


def test_what_is_off_refuses_who_writes_by_it_and_a_notice_waits_for_the_mail_server(
    house: House, api: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    contact = house.contact()
    api("POST", "set-up/connections/switch", {"kind": "channel", "name": "text", "on": False})
    status, refused = api("POST", f"contacts/{contact.id}/write", {"text": "Hello", "channel": "text"})
    assert status == 409 and "Texts: switched off under Set-up" in refused["detail"]
    house.consultant.phone = "+447700900555"
    house.consultant.save()
    assert "switched off" in api("POST", "test-message", {"channel": "text", "body": "Hi"})[1]["detail"]
    notice = {
        "account": house.sailing,
        "contact": contact,
        "person": house.member,
        "text": "Ring Ana",
        "at": clock.now(),
    }
    Notice.objects.create(key="n", mail=True, **notice)
    with monkeypatch.context() as away:
        asked: list[int] = []

        def nobody(carrier: Any, parcels: Sequence[Parcel]) -> list[Answer]:
            asked.append(len(parcels))
            return [Answer("away", "nobody is there")] * len(parcels)

        away.setattr(SimulatedCarrier, "hand_over", nobody)
        for _ in range(3):
            until_quiet()
        assert asked == [1]  # it rests for a while
        assert one(api, "channel", "email")["state"] == "broken"
    Connection.objects.update(said_at=clock.now() - 2 * connections.FRESH)
    until_quiet()
    assert not Notice.objects.filter(mail=True).exists()
    assert Item.objects.filter(theirs=house.member.email).count() == 1
