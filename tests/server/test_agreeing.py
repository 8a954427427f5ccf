"""Consent as an account sets it: confirmed by a link, good for so long, taken back by words of its own."""

import re
from datetime import timedelta
from typing import Any

import pytest
from dateutil.relativedelta import relativedelta
from django.test import Client

from bluffside.core.channels.consent import why_closed
from bluffside.core.conditions.person import ReachTest
from bluffside.server.capture import confirming, forms
from bluffside.server.capture.design import Asked, FormDesign, Question
from bluffside.server.capture.models import Form, FormAnswer
from bluffside.server.messaging.models import Message, Reply
from bluffside.server.messaging.services import take_reply
from bluffside.server.people.models import Consent, Contact
from bluffside.server.people.queries import account_facts, load_contacts
from bluffside.server.people.services import set_consent
from bluffside.server.practice import clock
from bluffside.server.segments.compiling import people_for
from bluffside.server.worker import until_quiet
from tests.server.conftest import House
from tests.server.visiting import fill, outside

WORDS = "Yes, write to me about sailing."
ANA = {"name": "Ana Reyes", "mail": "ana@example.com", "mobile": "07700 900444", "consent-0": "yes", "consent-1": "yes"}


@pytest.fixture
def form(house: House, monkeypatch: pytest.MonkeyPatch) -> Form:
    """It asks for consent by email and by text; the account has what is agreed to confirmed."""
    monkeypatch.setattr(forms, "QUICKEST", 0.0)
    cares(house, confirm_forms=True)
    made = forms.make(house.sailing, "Open day")
    questions = [
        Question(id="name", label="Your name", fills="full_name"),
        Question(id="mail", label="Your email", fills="email", kind="email"),
        Question(id="mobile", label="Your mobile", fills="mobile", kind="phone"),
    ]
    consent = [Asked(channel="email", words=WORDS), Asked(channel="text", words=WORDS)]
    forms.change(made, FormDesign(title="Come", questions=questions, consent=consent), True)
    return made


def cares(house: House, **parts: Any) -> None:
    house.sailing.care = house.sailing.care | parts
    house.sailing.save()


def said(contact: Contact) -> dict[str, str]:
    return dict(Consent.objects.filter(contact=contact, purpose="marketing").values_list("channel", "state"))


def links() -> dict[str, str]:
    """By channel, the path that the last messages ask to press."""
    found = Message.objects.filter(key__startswith="confirm:").order_by("id").values_list("channel", "body")
    return {channel: re.search(r"/c/\S+", body)[0] for channel, body in found}  # type: ignore[index]


def test_a_tick_holds_once_it_is_confirmed_by_the_channel_itself(house: House, form: Form) -> None:
    assert fill(form, **ANA).status_code == 200
    until_quiet()
    ana = Contact.objects.get(email="ana@example.com")
    assert (said(ana), set(links())) == ({}, {"email", "text"})
    assert set(Message.objects.values_list("state", flat=True)) <= {"sent", "delivered"}  # asked for, so it goes
    page = outside(links()["email"])
    assert WORDS in page.content.decode() and said(ana) == {}  # a link checker that looks agrees to nothing
    for _ in range(2):
        assert outside(links()["email"], {"x": "y"}).status_code == 200
    assert said(ana) == {"email": "given"}
    consent = Consent.objects.get(contact=ana, channel="email", purpose="marketing")
    assert (consent.wording, consent.how) == (WORDS, "form")
    assert (
        consent.evidence == "ticked on the form “Open day”, and confirmed by the link that was sent to ana@example.com"
    )


def test_whoever_types_anothers_address_agrees_to_nothing_and_is_heard_of_a_few_times_at_most(
    house: House, form: Form
) -> None:
    known = house.contact()
    set_consent(house.sailing, [known.id], "email", False, "asked to", by_themselves=True)
    for number in range(confirming.MOST_A_DAY + 2):
        fill(
            form,
            name=f"Somebody {number}",
            mail=known.email,
            mobile=known.mobile,
            **{"consent-0": "yes", "consent-1": "yes"},
        )
    until_quiet()
    assert said(known) == {"email": "withdrawn"}
    sent = Message.objects.filter(key__startswith="confirm:")
    assert {one.channel for one in sent} == {"text"}  # who has refused is not asked
    assert sent.count() == confirming.MOST_A_DAY
    token = links()["text"]
    last = "A" if token[-1] != "A" else "B"
    assert Client().get(token[:-1] + last).status_code == 404
    FormAnswer.objects.update(contact=None)  # who was erased since
    assert outside(token, {"x": "y"}).status_code in (404, 410)


def test_without_it_a_tick_holds_at_once_and_nobody_is_asked(house: House, form: Form) -> None:
    cares(house, confirm_forms=False)
    fill(form, **ANA)
    assert said(Contact.objects.get(email="ana@example.com")) == {"email": "given", "text": "given"}
    assert not Message.objects.filter(key__startswith="confirm:").exists()


def test_consent_that_has_run_out_counts_nowhere_and_a_day_before_it_does(house: House, api: Any) -> None:
    cares(house, policy={"marketing": "ask_first"}, consent_months=24)
    contacts = [house.contact(number) for number in (1, 2)]
    set_consent(house.sailing, [one.id for one in contacts], "text", True, "said so")
    old, fresh = (clock.now() - relativedelta(months=24) + timedelta(days=days) for days in (-1, 1))
    Consent.objects.filter(contact=contacts[0]).update(at=old)
    Consent.objects.filter(contact=contacts[1]).update(at=fresh)
    facts = load_contacts(house.sailing, [one.id for one in contacts])
    care = account_facts(house.sailing).care
    closed = [why_closed(facts[one.id].contact, "text", "marketing", care, clock.now()) for one in contacts]
    assert closed == ["agreed to texts for marketing longer ago than consent is good for here", ""]
    can = {"test": "reach", "channel": "text"}
    assert list(people_for(house.sailing, ReachTest.model_validate(can), clock.now())) == [contacts[1]]
    row = next(one for one in api("GET", "consent")[1] if (one["channel"], one["purpose"]) == ("text", "marketing"))
    assert (row["given"], row["run_out"], row["nothing"]) == (1, 1, 0)


@pytest.mark.parametrize(
    ("text", "out", "helped"),
    [("Stopio!", True, False), ("Cymorth", False, True), ("stopiau", False, False), ("STOP", True, False)],
)
def test_words_of_ones_own_count_like_the_usual_ones(house: House, text: str, out: bool, helped: bool) -> None:
    cares(house, words_out=["stopio"], words_help=["cymorth"], help_says="Ring the slip on 01632 960001")
    contact = house.contact()
    take_reply(house.sailing, "text", contact.mobile, text, "in:1")
    assert Reply.objects.get().opted_out == out
    assert (said(contact).get("text") == "withdrawn") == out
    answers = list(Message.objects.values_list("body", flat=True))
    assert any("Sailing: Ring the slip on 01632 960001." in body for body in answers) == helped


def test_a_word_that_agrees_cannot_mean_the_opposite(api: Any) -> None:
    for word in ("yes please", "START", "…"):
        status, refused = api("PATCH", "care", {"parts": {"words_out": [word]}})
        assert (status, list(refused["faults"])) == (422, ["words_out"])
    status, refused = api("PATCH", "care", {"parts": {"words_out": ["stopio"], "words_help": ["Stopio"]}})
    assert status == 422 and "opts out already" in refused["detail"]
    assert api("PATCH", "care", {"parts": {"words_out": ["stopio"]}})[0] == 200
