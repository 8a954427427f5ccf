"""What contacts decide on their own page, and the messages that lead there."""

import io
import re
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from pypdf import PdfReader

from bluffside.server.events.stream import WORLD
from bluffside.server.messaging.links import unsubscribe_token
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.outbox import Draft, queue
from bluffside.server.messaging.services import ask_for_quiet, write_to
from bluffside.server.outside.models import Item
from bluffside.server.people.models import Consent, Contact, ContactList
from bluffside.server.people.services import add_contact, set_consent
from bluffside.server.people.signed import preferences_link
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from tests.server.conftest import House
from tests.server.visiting import outside


@pytest.fixture
def page(house: House) -> Callable[..., Any]:
    contact = house.contact(1)
    path = preferences_link(house.sailing.id, contact.id).removeprefix("http://127.0.0.1:8000")

    def ask(data: dict[str, Any] | None = None) -> Any:
        shown = re.search(r'name="shown" value="(\w+)"', outside(path).content.decode())
        assert shown
        return outside(path, {"shown": shown[1], **data} if data else data)

    return ask


FORM = {"first_name": "Ana", "last_name": "R", "email": "p1@example.com", "mobile": "+447700900001", "order": ["text", "email"], "do": "save", "email-service": "yes", "text-service": "yes", "text-marketing": "yes"}  # fmt: skip


def test_a_contact_decides_what_they_hear_and_how(house: House, page: Callable[..., Any]) -> None:
    ContactList.objects.create(account=house.sailing, name="regatta", offered=True, offered_as="Race days")
    text = page().content.decode()
    assert "Race days" in text and text.count(" checked") == 4 and "Stop everything" in text
    assert not Consent.objects.exists()  # looking changes nothing
    assert page(FORM | {"subject": ["regatta"], "pause": "4"}).status_code == 200
    contact = Contact.objects.get()
    assert (contact.first_name, contact.channel_order, contact.lists) == ("Ana", ["text", "email"], ["regatta"])
    assert list(Consent.objects.values_list("channel", "purpose", "state", "how", "wording")) == [
        ("email", "marketing", "withdrawn", "preference page", "Email: news and offers")
    ]
    assert contact.paused_until and contact.paused_until > clock.now() + timedelta(days=27)
    page(FORM | {"email-marketing": "yes", "pause": "0"})
    assert Consent.objects.get().state == "given" and Contact.objects.get().paused_until is None


def test_where_consent_is_asked_first_nothing_is_ticked_beforehand(house: House, page: Callable[..., Any]) -> None:
    house.sailing.care = {"policy": {"marketing": "ask_first"}}
    house.sailing.save()
    assert page().content.decode().count(" checked") == 2  # what they booked
    page({name: value for name, value in FORM.items() if name != "text-marketing"})
    assert not Consent.objects.exists()


def test_leaving_stops_everything_also_what_waits_in_the_outbox(house: House, page: Callable[..., Any]) -> None:
    contact = Contact.objects.get()
    enrolling.enrol(house.workflow(), [contact.id], "test", WORLD)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("bluffside.server.messaging.delivery._lease", lambda *_: [])
        until_quiet()
    assert Message.objects.get().state == "queued"
    assert "no more messages" in page({"do": "leave"}).content.decode()
    until_quiet()
    assert Message.objects.get().state == "cancelled"
    assert Consent.objects.filter(state="withdrawn").count() == 12


def test_a_page_tells_nothing_of_others_and_cannot_be_guessed(house: House, page: Callable[..., Any]) -> None:
    add_contact(house.sailing, {"first_name": "Secret", "email": "other@example.com"})
    answer = page(FORM | {"email": "other@example.com"})
    assert answer.status_code == 422 and "Secret" not in answer.content.decode()
    assert (
        "Nothing was changed" in answer.content.decode()
        and Contact.objects.get(email="p1@example.com").first_name == "P1"
    )
    assert outside("/p/1.2.abcdefgh").status_code == 404
    assert outside("/p/nonsense").status_code == 404


def test_marketing_waits_for_who_asked_for_quiet(house: House, page: Callable[..., Any]) -> None:
    page(FORM | {"pause": "2"})
    contact = Contact.objects.get()
    enrolling.enrol(house.workflow(), [contact.id], "test", WORLD)
    until_quiet()
    assert not Message.objects.exists()
    enrolment = contact.enrolments.get()
    assert enrolment.due_at == contact.paused_until and enrolment.ended == ""
    with clock.at(contact.paused_until + timedelta(seconds=1)):  # type: ignore[operator]
        until_quiet()
        assert Message.objects.count() == 1


def test_who_ends_their_quiet_early_hears_again_at_once(house: House, page: Callable[..., Any]) -> None:
    """What waits at its line, and what was in the outbox already when the quiet began."""
    page(FORM | {"pause": "13"})
    contact = Contact.objects.get()
    enrolling.enrol(house.workflow(), [contact.id], "test", WORLD)
    until_quiet()
    draft = Draft(contact.id, "k", "text", "marketing", contact.mobile, "News", name="News")
    queue(house.sailing, [draft])
    ask_for_quiet(contact, 2)
    until_quiet()
    assert Message.objects.get().state == "queued"
    page(FORM | {"pause": "0"})
    until_quiet()
    assert sorted(Message.objects.values_list("state", flat=True)) == ["sent", "sent"]


MESSAGE = {"name": "M", "body": "Come sailing"}


@pytest.mark.parametrize("named", [False, True])
def test_every_message_that_can_carry_it_leads_to_the_page_once(house: House, named: bool) -> None:
    house.contact(1)
    Contact.objects.update(post="1 Quay, Saltby", push="device-1", social="@p1")
    contact = Contact.objects.get()
    words = MESSAGE | ({"body": "See {{ contact.preferences_link }}"} if named else {})
    kinds = ("text", "email", "letter", "push", "social", "voicemail")
    subject = {"email": {"subject": "S"}, "push": {"title": "T"}}
    steps = [{"id": kind, "kind": kind, "message": words | subject.get(kind, {})} for kind in kinds]
    enrolling.enrol(house.workflow(steps=steps), [contact.id], "test", WORLD)
    until_quiet()
    link = preferences_link(house.sailing.id, contact.id)
    carried = {one.channel: one.text.count(link) for one in Item.objects.all()}
    # An email's footer has it always; what is spoken has it only where somebody wrote it in, and says how to ask for it.
    assert Item.objects.get(channel="voicemail").text.endswith("text HELP to this number.") is not named
    assert carried == dict.fromkeys(kinds, 1) | {"email": 1 + named, "voicemail": int(named)}
    assert outside(link.removeprefix("http://127.0.0.1:8000")).status_code == 200
    assert not Message.objects.exclude(links=None).exists()  # and no click on it is counted


@pytest.mark.parametrize(("in_texts", "automatic", "by_hand"), [("every", 1, 1), ("automatic", 1, 0), ("named", 0, 0)])
def test_an_account_decides_which_texts_carry_the_way_to_the_page(
    api: Any, house: House, in_texts: str, automatic: int, by_hand: int
) -> None:
    _, care = api("GET", "care")
    assert api("PUT", "care", care | {"own_page_in_texts": in_texts})[0] == 200
    house.sailing.refresh_from_db()
    contact = house.contact(1)
    queue(house.sailing, [Draft(contact.id, "k", "text", "service", contact.mobile, "Hi")])
    write_to(contact, "text", "By hand", house.member)
    until_quiet()
    link = preferences_link(house.sailing.id, contact.id)
    assert [one.text.count(link) for one in Item.objects.order_by("id")] == [automatic, by_hand]
    _, shown = api("POST", "preview", {"body": "x" * 120, "contact_id": contact.id})
    assert (shown["parts"], link in shown["below"]) == ((2, True) if automatic else (1, False))


def test_an_account_has_words_of_its_own_for_the_way_to_the_page(api: Any, house: House) -> None:
    _, care = api("GET", "care")
    assert api("PUT", "care", care | {"own_page_words": "two\nlines"})[0] == 422
    assert api("PUT", "care", care | {"own_page_words": "What we may <send>:"})[0] == 200
    house.sailing.refresh_from_db()
    house.contact(1)
    Contact.objects.update(push="device-1")
    contact = Contact.objects.get()
    for channel, address in (("text", contact.mobile), ("push", "device-1"), ("email", contact.email)):
        queue(house.sailing, [Draft(contact.id, channel, channel, "service", address, "Hi", "Hello")])  # type: ignore[arg-type]
    until_quiet()
    way = f"What we may <send>: {preferences_link(house.sailing.id, contact.id)}"
    sent = {one.channel: one for one in Item.objects.all()}
    assert all(way in one.text for one in sent.values()) and len(sent) == 3
    assert ">What we may &lt;send&gt;</a>" in sent["email"].html
    left = outside(f"/u/{unsubscribe_token(house.sailing.id, contact.id)}")
    assert "What we may &lt;send&gt;" in left.content.decode()


def test_a_push_notice_leads_where_it_says_and_the_press_is_counted(house: House) -> None:
    house.contact(1)
    Contact.objects.update(push="device-1")
    step = {"id": "p", "kind": "push", "message": MESSAGE | {"title": "Ahoy", "link": "https://saltby.example/spring"}}
    enrolling.enrol(house.workflow(steps=[step]), [Contact.objects.get().id], "test", WORLD)
    until_quiet()
    link = Message.objects.get().links.get()
    assert link.url == "https://saltby.example/spring" and "/l/" in Item.objects.get().text


def test_proof_of_consent_is_a_document(api: Any, house: House) -> None:
    contact = house.contact(1)
    set_consent(house.sailing, [contact.id], "email", True, "signed the sheet", WORLD, how="form", wording="Yes please")
    set_consent(house.sailing, [contact.id], "email", False, "wrote “stop”", WORLD)
    from bluffside.server.people import proof

    text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(proof.as_pdf(contact))).pages)
    text = " ".join(text.split())  # lines are broken anywhere
    assert "Opted out" in text and "Yes please" in text and "signed the sheet" in text
