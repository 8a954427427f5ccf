"""Leads from other systems: kept first, matched by pointing, brought twice and once."""

import json
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.server.capture import leads
from bluffside.server.capture.models import Lead, Purchase
from bluffside.server.people.models import Consent, Contact, Field
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from tests.server.conftest import House
from tests.server.visiting import lead_of

BODY = {
    "form": "Spring advert",
    "lead": {"full name": "reyes, ana", "email": "ANA@example.com", "answers": [{"q": "When?", "a": "Saturdays"}]},
    "born": "25/12/1990",
}


def test_a_lead_is_caught_matched_by_pointing_and_replayed(api: Any, house: House) -> None:
    Field.objects.create(account=house.sailing, name="Born", kind="date")
    house.workflow(starts=[{"kind": "lead_received", "source": "Advert"}])
    _, source = api("POST", "lead-sources", {"name": "Advert"})
    assert lead_of(source["url"], {"campaign": "spring"}).status_code == 202
    assert api("GET", f"lead-sources/{source['id']}")[1]["leads"][0]["state"] == "waiting"
    assert lead_of(source["url"], BODY).status_code == 202
    matching = {"fields": [{"path": "lead.email", "fills": "email"}, {"path": "lead.full name", "fills": "full_name", "how": "capitals"},
                           {"path": "born", "fills": "field:Born", "how": "day_first"}], "tags": ["advert"], "consent": "email", "consent_evidence": "the advert’s box"}  # fmt: skip
    api("PUT", f"lead-sources/{source['id']}", {"on": True, "matching": matching})
    _, after = api("POST", f"lead-sources/{source['id']}/replay")
    assert [(one["state"], one["reason"]) for one in after["leads"]] == [
        ("taken", ""),
        ("failed", "neither an email nor a mobile number in it"),
    ]
    ana = Contact.objects.get()
    assert (ana.first_name, ana.last_name, ana.email, ana.fields) == (
        "Ana",
        "Reyes",
        "ana@example.com",
        {"Born": "1990-12-25"},
    )
    assert ana.tagged.get().tag.name == "advert" and Consent.objects.filter(contact=ana, state="given").count() == 1
    until_quiet()
    assert ana.enrolments.count() == 1


def test_a_lead_brought_twice_is_one_and_one_that_comes_while_off_waits(api: Any, house: House) -> None:
    _, source = api("POST", "lead-sources", {"name": "Advert"})
    body = {"email": "bo@example.com", "name": "Bo"}
    for _ in range(2):
        lead_of(source["url"], body, **{"webhook-id": "m1"})
    assert Lead.objects.get().state == "taken" and Contact.objects.count() == 1
    _, shown = api("GET", f"lead-sources/{source['id']}")
    api("PUT", f"lead-sources/{source['id']}", {"on": False, "matching": shown["matching"]})
    assert lead_of(source["url"], {"email": "cai@example.com"}).json()["state"] == "waiting"
    assert Contact.objects.count() == 1
    api("PUT", f"lead-sources/{source['id']}", {"on": True, "matching": shown["matching"]})
    api("POST", f"lead-sources/{source['id']}/replay")
    assert Contact.objects.count() == 2


ORDER = {
    "customer": {"email": "wren@example.com"},
    "order": {"id": "A-17", "total": "1.204,50", "what": "Dinghy course"},
}


def test_a_purchase_is_kept_once_however_often_it_is_told_and_reaches_an_aim(api: Any, house: House) -> None:
    bought = {"happens": [{"kind": "purchase_made", "item": "Dinghy course"}]}
    workflow = house.workflow(starts=[{"kind": "lead_received", "source": "Till"}], aim=bought)
    _, source = api("POST", "lead-sources", {"name": "Till"})
    fields = [
        {"path": "customer.email", "fills": "email"},
        {"path": "order.total", "fills": "purchase.amount", "how": "comma"},
        {"path": "order.what", "fills": "purchase.item"},
        {"path": "order.id", "fills": "purchase.number"},
    ]
    api("PUT", f"lead-sources/{source['id']}", {"on": True, "matching": {"fields": fields}})
    lead_of(
        source["url"], {"customer": ORDER["customer"], "order": {}}, **{"webhook-id": "m0"}
    )  # somebody who bought nothing yet
    until_quiet()
    assert not Purchase.objects.exists() and workflow.enrolments.get().reached_at is None
    for key in ("m1", "m2", "m2"):
        lead_of(source["url"], ORDER, **{"webhook-id": key})
    until_quiet()
    [kept] = Purchase.objects.all()
    assert (kept.item, kept.amount, kept.number, kept.contact.email) == (
        "Dinghy course", Decimal("1204.50"), "A-17", "wren@example.com",
    )  # fmt: skip
    [reached] = workflow.enrolments.exclude(reached_at=None)
    assert reached.reached_worth == Decimal("1204.50")
    _, shown = api("GET", f"lead-sources/{source['id']}")
    assert "Dinghy course" in str(api("GET", f"contacts/{kept.contact_id}/story")[1])
    assert [one["state"] for one in shown["leads"]] == ["taken"] * 3


@pytest.mark.parametrize("total", ["free", "-3", "9" * 12])
def test_what_is_no_amount_is_kept_and_said(api: Any, house: House, total: str) -> None:
    _, source = api("POST", "lead-sources", {"name": "Till"})
    fields = [{"path": "customer.email", "fills": "email"}, {"path": "order.total", "fills": "purchase.amount"}]
    api("PUT", f"lead-sources/{source['id']}", {"on": True, "matching": {"fields": fields}})
    lead_of(source["url"], {"customer": ORDER["customer"], "order": {"total": total}})
    lead = Lead.objects.get()
    assert lead.state == "failed" and total[:40] in lead.reason and not Purchase.objects.exists()
    assert not Contact.objects.exists()


def test_who_knows_no_secret_and_what_is_no_lead_are_refused(api: Any, house: House) -> None:
    _, source = api("POST", "lead-sources", {"name": "Advert"})
    assert lead_of("/in/guessed", BODY).status_code == 404
    for bad in (b"", b"{", b"[]", b"3", b"\xff\xfe", b'{"a":' * 5_000, b"x" * 200_000):
        answer = lead_of(source["url"], bad)
        assert answer.status_code == 400 and answer.json()["error"].startswith("Not taken:")
    assert not Lead.objects.exists()


json_values = st.recursive(
    st.none()
    | st.booleans()
    | st.integers()
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(max_size=12)
    | st.just("x@example.com"),
    lambda inner: (
        st.lists(inner, max_size=4)
        | st.dictionaries(st.text(max_size=8) | st.sampled_from(["email", "phone", "name"]), inner, max_size=4)
    ),
    max_leaves=12,
)


@settings(max_examples=60, suppress_health_check=list(HealthCheck))
@given(bodies=st.lists(json_values, min_size=1, max_size=3))
def test_whatever_a_source_sends_is_kept_and_settled(house: House, bodies: list[Any]) -> None:
    source = leads.make(house.sailing, f"S{Lead.objects.count()}-{clock.now().timestamp()}")
    kept = 0
    for n, body in enumerate(bodies):
        try:
            parsed = leads.parse(json.dumps(body).encode(), "application/json")
        except leads.BadLead:
            continue
        lead = leads.receive(source, parsed, f"k{n}")
        kept += 1
        assert lead.state in ("waiting", "taken", "failed") and (lead.state == "taken") == (lead.reason == "")
    assert Lead.objects.filter(source=source).count() == kept
