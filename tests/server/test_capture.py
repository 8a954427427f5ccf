"""Forms, words that come in, leads, preferences: what people and other systems send by themselves."""

import io
import json
import re
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import timedelta
from email.message import EmailMessage
from threading import Barrier
from typing import Any

import pytest
import segno
from django.db import connection
from django.test import Client, RequestFactory
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image
from pypdf import PdfReader
from pypdfium2 import PdfDocument
from zxingcpp import read_barcodes

from bluffside.core.channels.keywords import plain
from bluffside.core.workflow.files import parse_workflow
from bluffside.server.capture import flyer, forms, incoming, leads
from bluffside.server.capture.design import Asked, FormDesign, Question
from bluffside.server.capture.models import Form, FormAnswer, Lead
from bluffside.server.events.models import Event
from bluffside.server.events.stream import WORLD
from bluffside.server.messaging import strangers
from bluffside.server.messaging.inbound import take_mail
from bluffside.server.messaging.links import unsubscribe_token
from bluffside.server.messaging.models import Message, Reply
from bluffside.server.messaging.outbox import Draft, queue
from bluffside.server.messaging.parcels import message_id
from bluffside.server.messaging.services import ask_for_quiet, take_reply, write_to
from bluffside.server.outside.models import Item
from bluffside.server.people.erasing import erase
from bluffside.server.people.models import Consent, Contact, ContactList, Field
from bluffside.server.people.services import add_contact, set_consent
from bluffside.server.people.signed import preferences_link
from bluffside.server.practice import clock, walls
from bluffside.server.practice.brand import contrast
from bluffside.server.practice.origin import address_of
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, paper, writing
from bluffside.server.workflows.facts import load_facts
from tests.core.examples import ASK
from tests.server.conftest import House


def outside(path: str, data: dict[str, Any] | None = None, **more: Any) -> Any:
    """A request from outside, as somebody who is in no account, at the server's own address."""
    before = walls.scope()
    walls.leave()
    client = Client()
    answer = client.get(path, **more) if data is None else client.post(path, data, **more)
    walls.enter(*(int(id) for id in before[0].split(",")))
    return answer


# ---- forms


@pytest.fixture
def open_day(house: House, monkeypatch: pytest.MonkeyPatch) -> Form:
    monkeypatch.setattr(forms, "QUICKEST", 0.0)
    Field.objects.create(account=house.sailing, name="Boats", kind="choices", choices=["Kayak", "Dinghy"])
    made = forms.make(house.sailing, "Open day")
    design = FormDesign(
        title="Come aboard",
        questions=[
            Question(id="name", label="Your name", fills="full_name", required=True),
            Question(id="mail", label="Your email", fills="email", kind="email", required=True),
            Question(id="boats", label="What would you sail?", fills="field:Boats", kind="choices", choices=["Kayak", "Dinghy"]),
            Question(id="why", label="What brings you?", kind="long"),
        ],
        consent=[Asked(channel="email", words="Yes, write to me about sailing.")],
        tags=["visitor"],
        lists=["open day"],
    )  # fmt: skip
    forms.change(made, design, True)
    return made


def fill(form: Form, query: str = "", page: str = "", **answers: Any) -> Any:
    path = f"/f/{form.token}{query}"
    text = outside(path).content.decode()
    hidden = dict(re.findall(r'name="(hidden-\w+)" value="([^"]*)"', text))
    stamp = re.search(r'name="page" value="([^"]+)"', text)
    return outside(f"/f/{form.token}", {"page": page or (stamp[1] if stamp else ""), **hidden, **answers})


ANA = {"name": "Ana Reyes", "mail": "ANA@example.com", "boats": ["Kayak"], "why": "The sea", "consent-0": "yes"}


def test_a_form_brings_somebody_in_with_what_they_agreed_to(house: House, open_day: Form) -> None:
    answer = fill(open_day, "?source=flyer&campaign=spring&other=x", **ANA)
    assert "Thank you" in answer.content.decode()
    ana = Contact.objects.get()
    assert (ana.first_name, ana.last_name, ana.email, ana.lists, ana.fields) == (
        "Ana",
        "Reyes",
        "ana@example.com",
        ["open day"],
        {"Boats": ["Kayak"]},
    )
    said = Consent.objects.get(contact=ana)
    assert (said.state, said.channel, said.purpose, said.how, said.wording) == (
        "given",
        "email",
        "marketing",
        "form",
        "Yes, write to me about sailing.",
    )
    event = Event.objects.get(kind="form.sent")
    assert event.data["answers"] == {
        "Your name": "Ana Reyes",
        "Your email": "ANA@example.com",
        "What would you sail?": "Kayak",
        "What brings you?": "The sea",
        "source": "flyer",
        "campaign": "spring",
    }
    assert FormAnswer.objects.get().hidden == {"source": "flyer", "campaign": "spring"}


def test_a_form_starts_a_workflow_and_who_is_known_stays_one(house: House, open_day: Form) -> None:
    house.workflow(starts=[{"kind": "form_sent", "form": "Open day"}])
    add_contact(house.sailing, {"first_name": "Anita", "email": "ana@example.com", "mobile": "07700900123"})
    fill(open_day, **ANA)
    until_quiet()
    assert Contact.objects.get().first_name == "Anita"
    assert Message.objects.filter(contact__email="ana@example.com").count() == 1


def test_what_is_wrong_is_said_beside_it_and_nothing_typed_is_lost(house: House, open_day: Form) -> None:
    answer = fill(open_day, **(ANA | {"mail": "not an address", "name": ""}))
    text = answer.content.decode()
    assert answer.status_code == 422 and "“not an address” is not an email address." in text
    assert "Please answer this." in text and 'value="not an address"' in text and "The sea" in text
    assert not Contact.objects.exists() and not FormAnswer.objects.exists()


def test_content_of_visitors_is_never_run(house: House, open_day: Form) -> None:
    text = fill(
        open_day, "?source=%22%3E%3Cscript%3E", **(ANA | {"mail": "x", "why": "</textarea><script>alert(1)</script>"})
    ).content.decode()
    assert "<script>" not in text


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"website": "http://spam.example.com"}, "no person sees"),
        ({"page": "1234.abcd.ef"}, "did not come from the form’s page"),
    ],
)
def test_spam_is_kept_apart_and_can_be_let_in(
    api: Any, house: House, open_day: Form, change: dict[str, str], why: str
) -> None:
    answer = fill(open_day, **(ANA | change))
    assert "Thank you" in answer.content.decode()  # who sent it learns nothing
    assert not Contact.objects.exists()
    _, kept = api("GET", f"forms/{open_day.id}/answers?state=spam")
    assert why in kept[0]["reason"] and kept[0]["answers"]["Your name"] == "Ana Reyes"
    _, taken = api("POST", f"forms/{open_day.id}/answers/{kept[0]['id']}/let-in")
    assert (taken["state"], taken["contact"]) == ("taken", "Ana Reyes")
    assert Consent.objects.get().wording == "Yes, write to me about sailing."
    assert api("POST", f"forms/{open_day.id}/answers/{kept[0]['id']}/let-in")[0] == 409


def test_a_page_that_is_sent_twice_or_too_soon_or_too_often(
    house: House, open_day: Form, monkeypatch: pytest.MonkeyPatch
) -> None:
    stamp = forms.stamp(open_day)
    for _ in range(2):
        fill(open_day, page=stamp, **ANA)
    assert FormAnswer.objects.count() == 1 and Event.objects.filter(kind="form.sent").count() == 1
    for _ in range(forms.AN_HOUR):
        fill(open_day, **ANA)
    assert FormAnswer.objects.filter(state="spam").get().reason == "more than 12 from one place in an hour"
    FormAnswer.objects.all().delete()
    monkeypatch.setattr(forms, "QUICKEST", 3.0)
    fill(open_day, **ANA)
    assert "seconds after the page was opened" in FormAnswer.objects.get().reason


def test_a_page_that_is_sent_twice_at_the_same_moment_is_one(committed_house: House) -> None:
    form = forms.make(committed_house.sailing, "Open day")
    questions = [Question(id="mail", label="Your email", fills="email", kind="email")]
    forms.change(form, FormDesign(title="Come", questions=questions), True)
    stamped, both = forms.stamp(form, ago=60), Barrier(4)

    def send(_: int) -> int | None:
        try:
            with walls.within(form.account):
                both.wait()
                sent = forms.send(form, {"mail": ["ana@example.com"]}, {}, stamped, "1.1.1.1")
                return sent.contact.id if sent.contact else None
        finally:
            connection.close()

    with ThreadPoolExecutor(4) as pool:
        found = set(pool.map(send, range(4)))
    # Who comes second while the first is being taken is thanked, and makes nobody.
    assert found - {None} == {Contact.objects.get().id}
    assert FormAnswer.objects.count() == 1


@pytest.mark.parametrize(
    ("proxies", "said", "origin"),
    [
        (0, "1.1.1.1", "9.9.9.9"),
        (1, "made up, 1.1.1.1", "1.1.1.1"),
        (2, "made up, 1.1.1.1, 2.2.2.2", "1.1.1.1"),
        (2, "1.1.1.1", "9.9.9.9"),
    ],
)
def test_a_visitor_is_told_by_what_ones_own_proxies_saw(settings: Any, proxies: int, said: str, origin: str) -> None:
    settings.BLUFFSIDE_PROXIES = proxies
    request = RequestFactory().post("/f/x", REMOTE_ADDR="9.9.9.9", headers={"X-Forwarded-For": said})
    assert address_of(request) == origin


def test_a_closed_form_an_unfinished_one_and_none(api: Any, house: House, open_day: Form) -> None:
    assert outside("/f/no-such-form").status_code == 404
    design = forms.design_of(open_day).model_dump()
    api("PUT", f"forms/{open_day.id}", {"name": "Open day", "design": design, "open": False})
    assert outside(f"/f/{open_day.token}").status_code == 410
    design["questions"] = design["questions"][:1]
    _, changed = api("PUT", f"forms/{open_day.id}", {"name": "Open day", "design": design, "open": True})
    assert changed["problem"].startswith("It asks neither for an email nor")
    assert outside(f"/f/{open_day.token}").status_code == 410
    assert api("POST", "forms", {"name": "open DAY"})[0] == 422


def test_the_team_fills_in_a_form_about_somebody(api: Any, house: House) -> None:
    contact = house.contact(1)
    _, made = api("POST", "forms", {"name": "After the call", "for_team": True})
    assert outside(f"/f/{Form.objects.get().token}").status_code == 404
    path = f"forms/{made['id']}/about/{contact.id}"
    assert api("POST", path, {"answers": {"q1": ["Wants a Saturday"]}}) == (200, {"faults": {}})
    event = Event.objects.get(kind="form.sent")
    assert (event.contact_id, event.actor, event.data["answers"]) == (
        contact.id,
        house.consultant,
        {"What did they say?": "Wants a Saturday"},
    )


def test_a_workflow_that_starts_on_a_form_says_when_there_is_none(house: House) -> None:
    document = parse_workflow(ASK | {"starts": [{"kind": "form_sent", "form": "Open day"}]})

    def codes() -> set[str]:
        return {one.code for one in writing.all_checks(house.sailing, document)}

    assert "no-such-form" in codes()
    forms.make(house.sailing, "Open day")
    assert "no-such-form" not in codes()


def test_a_code_and_a_flyer_lead_to_the_form(api: Any, house: House, open_day: Form) -> None:
    """ISO/IEC 18004; the other reader is `zxing-cpp`, of the flyer as PDFium prints it at 100 dots an inch."""
    drawn = flyer.code(open_day, "svg").decode()
    width = segno.make(flyer.link(open_day, source="code"), error="m").symbol_size(border=4)[0]
    assert drawn.startswith("<svg") and f'width="{width * 8}"' in drawn
    assert scanned(Image.open(io.BytesIO(flyer.code(open_day, "png")))) == [flyer.link(open_day, source="code")]
    printed = flyer.flyer(open_day)
    assert scanned(on_paper(printed)) == [flyer.link(open_day, source="flyer")]
    text = PdfReader(io.BytesIO(printed)).pages[0].extract_text()
    assert "Come aboard" in text and flyer.link(open_day) in text.replace("\n", "")


def on_paper(pdf: bytes) -> Any:
    """The first page as a picture."""
    return PdfDocument(pdf)[0].render(scale=100 / 72).to_pil()


def scanned(picture: Any) -> list[str]:
    return [code.text for code in read_barcodes(picture)]


def test_a_printed_letter_leads_to_the_contacts_own_page_by_a_code(house: House) -> None:
    contact = house.contact(1)
    link = preferences_link(house.sailing.id, contact.id)
    sheet = paper.Letter("P1", "1 Quay", "Welcome", "Dear P1,\n\ncome sailing.", link)
    printed = paper.letters([sheet], "Sailing", "1 Quay", "2 March", "What you hear")
    assert scanned(on_paper(printed)) == [link]
    long = paper.letters(
        [replace(sheet, words="Come sailing. " * 400)], "Sailing", "1 Quay", "2 March", "What you hear"
    )
    pages = PdfDocument(long)
    assert [scanned(page.render(scale=100 / 72).to_pil()) for page in pages] == [[], [link]]


def test_contrast_is_that_of_wcag() -> None:
    """WCAG 2.2: black on white is 21:1; #767676 on white is the lightest grey that passes 4.5:1 (common knowledge)."""
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
    assert contrast("#767676", "#ffffff") > 4.5 > contrast("#777777", "#ffffff")


# ---- what comes in by text


def rule(api: Any, words: list[str], **more: Any) -> dict[str, Any]:
    status, rules = api("POST", "incoming-rules", {"words": words, **more})
    assert status == 201
    return rules[-1]  # type: ignore[no-any-return]


def test_a_word_texted_by_a_stranger_brings_them_in_tags_and_answers(api: Any, house: House) -> None:
    workflow = house.workflow()
    acts = {
        "tags": ["poster"],
        "lists": ["open day"],
        "assign": "Mel R",
        "workflow": workflow.id,
        "answer": "Welcome aboard!",
        "after": 30,
    }
    rule(api, ["Sail", "sailing"], acts=acts)
    take_reply(house.sailing, "text", "+447700900150", "SAIL!", "in:1")
    until_quiet()
    new = Contact.objects.get(mobile="+447700900150")
    assert new.tagged.get().tag.name == "poster" and new.lists == ["open day"] and new.responsible == house.member
    answer = Message.objects.get(contact=new, key__startswith="answer:")
    assert (answer.body, answer.state, answer.next_try_at - answer.queued_at) == (
        "Welcome aboard!",
        "queued",
        timedelta(minutes=30),
    )
    assert new.enrolments.count() == 1
    assert api("GET", "incoming-rules")[1][0]["fitted"] == 1


def test_opting_out_comes_before_any_rule_and_strangers_who_stop_are_not_kept(api: Any, house: House) -> None:
    made = rule(api, ["stop", "hello"], acts={"tags": ["hm"]})
    assert made["hidden"] == "“stop” opts out or in, before any rule is asked"
    take_reply(house.sailing, "text", "+447700900150", "Stop", "in:1")
    contact = house.contact(1)
    take_reply(house.sailing, "text", contact.mobile, "STOP", "in:2")
    until_quiet()
    assert not Contact.objects.filter(mobile="+447700900150").exists() and not contact.tagged.exists()


def test_who_asks_for_help_learns_who_writes_how_to_stop_and_where_to_decide(api: Any, house: House) -> None:
    contact = house.contact(1)
    for key in ("in:1", "in:1", "in:2"):
        take_reply(house.sailing, "text", contact.mobile, "Help!", key)
    answers = list(Message.objects.filter(contact=contact).values_list("body", "purpose"))
    assert len(answers) == 2  # the same reply reported twice is one
    assert preferences_link(house.sailing.id, contact.id) in answers[0][0] and "STOP" in answers[0][0]
    for number, word in enumerate(["stop", "STOP", "info", "start", "Start"], start=3):
        take_reply(house.sailing, "text", contact.mobile, word, f"in:{number}")
    until_quiet()
    told = Message.objects.filter(contact=contact).order_by("id").values_list("name", "state")[2:]
    sent = ("They are out", "sent"), ("Answer to “help”", "sent"), ("They are in again", "sent")
    assert tuple(told) == sent  # each once, and help is answered after opting out, too


def test_the_first_rule_that_fits_acts_and_overlaps_are_told(api: Any, house: House) -> None:
    first = rule(api, ["taster"], match="contains", acts={"tags": ["taster"]})
    second = rule(api, ["taster day"], acts={"tags": ["day"]})
    assert second["hidden"] == "“taster day” is taken by rule 1 before it"
    assert api("POST", "incoming-try", {"text": "The taster day, please"})[1] == {
        "rule": first["id"],
        "words": "Rule 1 acts: tags “taster”.",
    }
    _, moved = api("POST", f"incoming-rules/{second['id']}/up")
    assert [one["hidden"] for one in moved] == ["", ""]
    assert api("POST", "incoming-try", {"text": "Taster day"})[1]["rule"] == second["id"]
    assert api("POST", "incoming-try", {"text": "when?"})[1]["rule"] == 0


def mail(text: str, subject: str = "", key: str = "<1@home.example>", **headers: str) -> bytes:
    made = EmailMessage()
    made["From"], made["Subject"], made["Message-ID"] = "Ana Reyes <Ana@example.com>", subject, key
    for name, value in headers.items():
        made[name.replace("_", "-")] = value
    made.set_content(text)
    return made.as_bytes()


OURS = ["hello@sailing.example.com"]


def test_who_writes_an_email_that_a_rule_fits_comes_in(api: Any, house: House) -> None:
    rule(api, ["evening class"], match="contains", channels=["email"], acts={"tags": ["class"], "answer": "Gladly!"})
    for key in ("<1@home.example>", "<1@home.example>", "<2@home.example>"):  # brought twice, and another
        take_mail(mail("Do you have a place?", "Evening class", key), OURS)
    until_quiet()
    new = Contact.objects.get()
    assert (new.first_name, new.last_name, new.email) == ("Ana", "Reyes", "ana@example.com")
    assert new.tagged.get().tag.name == "class" and new.replies.count() == 2
    assert Event.objects.get(kind="contact.added").data["how"] == "by writing “Evening class”"
    assert list(Message.objects.values_list("channel", "body")) == [("email", "Gladly!")] * 2


def test_an_email_that_no_rule_fits_waits_apart_until_somebody_decides(api: Any, house: House) -> None:
    rule(api, ["class"], match="contains", acts={"tags": ["class"]})  # by text alone
    take_mail(mail("Any class this week?", "A question", "<1@home.example>"), OURS)
    take_mail(mail("Any class this week?", "A question", "<1@home.example>"), OURS)
    take_mail(mail("And next week?", "", "<2@home.example>"), OURS)
    take_mail(mail("I am away", "", "<3@home.example>", Auto_Submitted="auto-replied"), OURS)
    until_quiet()
    assert not Contact.objects.exists() and not Reply.objects.exists()
    _, waiting = api("GET", "strangers")
    assert [one["text"] for one in waiting] == ["And next week?", "Any class this week?"]
    status, row = api("POST", f"strangers/{waiting[0]['id']}/take-in")
    assert status == 200 and row["email"] == "ana@example.com" and api("GET", "strangers")[1] == []
    assert [one.text for one in Contact.objects.get().replies.order_by("id")] == [
        "Any class this week?",
        "And next week?",
    ]
    assert Event.objects.filter(kind="reply.received").count() == 2  # workflows and rules hear them now
    assert api("POST", f"strangers/{waiting[0]['id']}/take-in")[0] == 404


def test_what_strangers_wrote_is_thrown_away_by_hand_by_number_and_with_who_is_erased(
    api: Any, house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(strangers, "MOST_KEPT", 3)
    for number in range(5):
        take_mail(mail(f"Mail {number}", "", f"<{number}@home.example>"), OURS)
    _, waiting = api("GET", "strangers")
    assert [one["text"] for one in waiting] == ["Mail 4", "Mail 3", "Mail 2"]
    assert api("DELETE", f"strangers/{waiting[0]['id']}")[0] == 204
    erase(add_contact(house.sailing, {"email": "ana@example.com"}), house.consultant)
    assert api("GET", "strangers")[1] == []


def test_who_answers_from_another_address_is_still_who_was_written_to(house: House) -> None:
    contact = house.contact(1)
    enrolling.enrol(
        house.workflow(steps=[{"id": "e", "kind": "email", "message": MESSAGE | {"subject": "S"}}]),
        [contact.id],
        "test",
        WORLD,
    )
    until_quiet()
    ours = message_id(Message.objects.get(), "sailing.example.com")
    take_mail(mail("Yes please", In_Reply_To=ours), OURS)
    assert Reply.objects.get().contact == contact and Contact.objects.count() == 1


@settings(max_examples=100, suppress_health_check=list(HealthCheck))
@given(
    words=st.lists(st.text(max_size=8), max_size=3),
    text=st.text(max_size=20),
    match=st.sampled_from(["is", "begins", "contains"]),
)
def test_words_fit_as_whole_words_whatever_their_case(words: list[str], text: str, match: str) -> None:
    said = plain(text).split()
    wanted = [one.split() for one in map(plain, words) if one]
    at = {"is": lambda w: said == w, "begins": lambda w: said[: len(w)] == w,
          "contains": lambda w: any(said[n : n + len(w)] == w for n in range(len(said)))}[match]  # fmt: skip
    assert incoming.fits(match, words, text) == any(map(at, wanted))


# ---- leads

BODY = {
    "form": "Spring advert",
    "lead": {"full name": "reyes, ana", "email": "ANA@example.com", "answers": [{"q": "When?", "a": "Saturdays"}]},
    "born": "25/12/1990",
}


def lead_of(url: str, body: Any, **headers: str) -> Any:
    return outside(
        url.removeprefix("http://127.0.0.1:8000"),
        body if isinstance(body, bytes) else json.dumps(body),
        content_type="application/json",
        headers=headers,
    )


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


# ---- preferences


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


def test_a_form_and_a_source_take_other_names_with_what_happened_by_them(
    api: Any, open_day: Form, house: House
) -> None:
    fill(open_day, name="Ana Reyes", mail="ana@example.com")
    _, source = api("POST", "lead-sources", {"name": "Advert"})
    lead_of(source["url"], {"email": "ana@example.com"})
    came = [
        {"test": "count", "activity": "form", "about": "Open day"},
        {"test": "event", "event": "lead.received", "about": "Advert"},
    ]
    api("POST", "segments", {"name": "Both", "condition": {"test": "all", "of": came}})
    assert api("POST", "contacts/count", {"segment": "Both"})[1] == {"count": 1}
    api("POST", "forms", {"name": "Regatta"})
    assert api("PUT", f"forms/{open_day.id}/name", {"name": "regatta"})[0] == 422  # another has it
    assert api("PUT", f"lead-sources/{source['id']}/name", {"name": "Spring advert"})[1]["name"] == "Spring advert"
    assert api("PUT", f"forms/{open_day.id}/name", {"name": "Open days"})[1]["name"] == "Open days"
    used = {(one["kind"], one["name"]) for one in api("GET", "uses")[1] if one["place"] == "segment"}
    assert used == {("form", "Open days"), ("source", "Spring advert")}
    assert api("POST", "contacts/count", {"segment": "Both"})[1] == {"count": 1}
    facts = load_facts(house.sailing, [Contact.objects.get().id]).popitem()[1]
    assert {one.subject for one in facts.contact.happened} >= {"Open days", "Spring advert"}

    # Somebody is still inside a version that waits for the form, though the newest does not.
    lane = {"id": "f", "on": {"kind": "form_sent", "form": "Open days"}}
    workflow = house.workflow(steps=[{"kind": "wait_for", "id": "w", "lanes": [lane]}])
    enrolling.enrol(workflow, [Contact.objects.get().id], "test", WORLD)
    saved = writing.save_draft(workflow, parse_workflow(ASK), workflow.revision, house.consultant)
    writing.publish(saved, saved.revision, house.consultant)
    status, said = api("PUT", f"forms/{open_day.id}/name", {"name": "Open Sundays"})
    assert status == 422 and said["detail"].startswith(f"“{workflow.name}” runs with “Open days”.")


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
