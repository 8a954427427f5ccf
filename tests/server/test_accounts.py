"""Accounts: made from three answers, live only when said, put away and brought back."""

import json
from typing import Any

import pytest

from bluffside.server.events.stream import Cause
from bluffside.server.messaging import stopping
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.services import write_to
from bluffside.server.outside.models import Item
from bluffside.server.people.services import add_contact
from bluffside.server.practice import clock, walls
from bluffside.server.practice.models import Account, AuditEntry
from bluffside.server.set_up import accounts
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, held_back
from bluffside.server.workflows.models import Enrolment, EnrolmentReasons
from tests.server.conftest import House


def post(client: Any, path: str, **body: Any) -> Any:
    return client.post(f"/api/{path}", json.dumps(body), content_type="application/json")


def test_three_answers_make_an_account_and_the_town_says_the_rest(house: House, signed_in: Any) -> None:
    client = signed_in(house.consultant)
    assert client.get("/api/myself/zones?q=auckland").json()[0]["zone"] == "Pacific/Auckland"
    made = post(
        client, "practice/accounts", name="Kauri Kayaks", zone="Pacific/Auckland", trade="kayaks", like="sailing"
    )
    assert (made.status_code, made.json()) == (201, {"slug": "kauri-kayaks"})
    own = Account.objects.get(slug="kauri-kayaks")
    assert (own.region, own.language, own.currency, own.trying_out, own.care) == (
        "NZ",
        "en-NZ",
        "NZD",
        True,
        house.sailing.care,
    )
    with walls.within(own):
        assert AuditEntry.objects.get(account=own).new == "made with the set-up of Sailing"
    twice = post(client, "practice/accounts", name="kauri KAYAKS", zone="Nowhere/Deep")
    assert twice.status_code == 422 and set(twice.json()["faults"]) == {"name", "zone"}
    assert post(client, "practice/accounts", name="API", zone="Europe/London").json() == {"slug": "api-2"}
    assert post(signed_in(house.member), "practice/accounts", name="Mine", zone="Europe/London").status_code == 403
    rows = {one["slug"]: one for one in client.get("/api/practice/").json()["accounts"]}
    assert (rows["kauri-kayaks"]["state"], rows["kauri-kayaks"]["place"]) == ("tried out", "Auckland, New Zealand")
    assert rows["sailing"]["state"] == "live"


@pytest.fixture
def tried_out(house: House) -> House:
    Account.objects.filter(id=house.sailing.id).update(trying_out=True)
    house.sailing.refresh_from_db()
    house.member.phone = "+447700900777"
    house.member.save()
    return house


def test_until_it_is_live_messages_reach_its_own_team_alone(tried_out: House, signed_in: Any) -> None:
    account = tried_out.sailing
    stranger = tried_out.contact(1)
    colleague = add_contact(account, {"first_name": "Mel", "mobile": "+447700900777"})
    workflow = tried_out.workflow()
    enrolling.enrol(workflow, [stranger.id, colleague.id], "test", Cause())
    until_quiet()
    assert [one.theirs for one in Item.objects.filter(inbound=False)] == [colleague.mobile]
    stands = Enrolment.objects.get(contact=stranger, ended_at=None)
    assert stands.rest["stopped"] is True
    assert "the account is not live yet" in json.dumps(
        [one.reasons for one in EnrolmentReasons.objects.filter(enrolment=stands)]
    )
    # What a person writes is held as well, and said so; to a colleague it goes.
    write_to(stranger, "text", "Hello", tried_out.consultant)
    write_to(colleague, "text", "Hello", tried_out.consultant)
    until_quiet()
    held = Message.objects.get(contact=stranger)
    assert (held.state, held.reason) == ("held", "the account is not live yet")
    assert Message.objects.filter(contact=colleague, state__in=("sent", "delivered")).count() == 2
    with pytest.raises(stopping.CannotStop, match="not live yet"):
        held_back.decide(account, held_back.held_back(account)[0], True, tried_out.consultant)

    client = signed_in(tried_out.consultant)
    before = client.get("/api/accounts/sailing/set-up/live").json()
    assert not before["live"] and not any(one["needed"] for one in before["missing"])
    Account.objects.filter(id=account.id).update(text_number="")
    refused = post(client, "accounts/sailing/set-up/live")
    assert refused.status_code == 409 and "no number is set that they come from" in refused.json()["detail"]
    Account.objects.filter(id=account.id).update(text_number="+447700900900")
    assert post(client, "accounts/sailing/set-up/live").json()["live"]
    assert post(client, "accounts/sailing/set-up/live").status_code == 409
    account.refresh_from_db()
    until_quiet()
    assert not Item.objects.filter(inbound=False, theirs=stranger.mobile)  # nothing goes by itself
    for one in held_back.held_back(account):
        assert held_back.decide(account, one, True, tried_out.consultant) == 1
    until_quiet()
    assert Item.objects.filter(inbound=False, theirs=stranger.mobile).count() == 2


def test_a_message_is_held_when_the_colleague_it_was_for_has_left(tried_out: House) -> None:
    colleague = add_contact(tried_out.sailing, {"first_name": "Mel", "mobile": "+447700900777"})
    with clock.at(clock.now()):
        write_to(colleague, "text", "Hello", tried_out.consultant)
        tried_out.member.is_active = False
        tried_out.member.save()
        until_quiet()
    assert Message.objects.get(contact=colleague).state == "held"


def test_an_account_that_is_put_away_sends_nothing_keeps_what_comes_and_comes_back_stopped(
    house: House, signed_in: Any
) -> None:
    client, contact = signed_in(house.consultant), house.contact(1)
    assert post(client, "practice/accounts/sailing/put-away").status_code == 204
    assert post(client, "practice/accounts/sailing/put-away").status_code == 409
    house.sailing.refresh_from_db()
    write_to(contact, "text", "Hello", house.consultant)
    until_quiet()
    assert Message.objects.get(contact=contact).state == "held"
    add_contact(house.sailing, {"first_name": "Nell", "email": "nell@example.com"})
    lift = post(client, "accounts/sailing/sending/lift")
    assert lift.status_code == 409 and "Bring it back first" in lift.json()["detail"]
    assert post(client, "practice/accounts/sailing/bring-back").status_code == 204
    assert Account.objects.get(id=house.sailing.id).stopped_at is not None
    assert post(client, "accounts/sailing/sending/lift").status_code == 204
    said = [one.new for one in AuditEntry.objects.filter(account=house.sailing, area="account").order_by("id")]
    assert said == ["stopped: the account is put away", "put away", "brought back", "lifted"]


def test_slugs_never_stand_in_the_way_of_other_addresses(house: House) -> None:
    for name, slug in [
        ("Health", "health-2"),
        ("Ünïcorn & Co", "unicorn-co"),
        ("…", "account"),
        ("Sailing!", "sailing-2"),
    ]:
        assert accounts.make(house.practice, name, "Europe/London", "", house.consultant).slug == slug
