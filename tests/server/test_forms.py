"""Forms: filled in by anybody, kept first, taken once, spam apart; codes and flyers that lead to them."""

import io
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from threading import Barrier
from typing import Any

import pytest
import segno
from django.db import connection
from django.test import RequestFactory
from PIL import Image
from pypdf import PdfReader
from pypdfium2 import PdfDocument
from zxingcpp import read_barcodes

from bluffside.core.contrast import contrast
from bluffside.core.workflow.files import parse_workflow
from bluffside.server.capture import flyer, forms
from bluffside.server.capture.design import Asked, FormDesign, Question
from bluffside.server.capture.models import Form, FormAnswer
from bluffside.server.events.models import Event
from bluffside.server.events.stream import WORLD
from bluffside.server.messaging.models import Message
from bluffside.server.people.models import Consent, Contact, Field
from bluffside.server.people.services import add_contact
from bluffside.server.people.signed import preferences_link
from bluffside.server.practice import walls
from bluffside.server.practice.origin import address_of
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, paper, writing
from bluffside.server.workflows.facts import load_facts
from tests.core.examples import ASK
from tests.server.conftest import House
from tests.server.visiting import fill, lead_of, outside


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
