"""Letters in lines on their way: what was rehearsed is what is sent, links are counted, and words go when their time is over."""

import io
import re
from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from PIL import Image

from bluffside.core.letters.compiling import addressed
from bluffside.core.letters.document import Letter
from bluffside.core.rehearsal.rehearse import rehearse
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.letters import html_for
from bluffside.server.messaging.models import LetterWords, Link, Message, OwnCopy, SentLetter
from bluffside.server.outside.models import Item
from bluffside.server.people.services import change_contact
from bluffside.server.practice import clock, keeping
from bluffside.server.practice.brand import brand_of
from bluffside.server.practice.models import Account
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.versions import published_document
from tests.core.examples import MONDAY
from tests.server.conftest import House

LINES: list[dict[str, Any]] = [
    {"kind": "heading", "words": "Spring"},
    {"kind": "paragraph", "words": 'Hello **{{ contact.first_name | default: "sailor" }}**, see [the dates](https://example.com/dates?a=1&b=2).'},
    {"kind": "button", "words": "Hold me a place", "leads_to": "{{ account.booking_link }}"},
    {"kind": "columns", "columns": [{"lines": [{"id": "c", "kind": "details"}]}, {"lines": []}]},
    {"kind": "closing"},
]  # fmt: skip
LETTER = {"preview": "From April", "lines": [{"id": f"l{n}", **line} for n, line in enumerate(LINES)]}
EMAIL = {"name": "Dates", "subject": "For {{ contact.first_name }}", "body": "", "letter": LETTER}
STEPS = [{"id": "mail", "kind": "email", "purpose": "service", "message": EMAIL}]


def shown(html: str) -> str:
    """Without what is another for each mail: where links lead, and what stands under it."""
    return re.sub(r'(href|src)="[^"]*"', r"\1", html.split('class="under')[0])


def test_the_mail_that_is_sent_is_the_one_that_was_rehearsed(house: House) -> None:
    Account.objects.filter(pk=house.sailing.pk).update(
        booking_link="https://book.example.com/taster", brand_colour="#204060"
    )
    house.sailing.refresh_from_db()
    workflow = house.workflow(starts=[{"kind": "by_hand"}], steps=STEPS, hours=None)
    people = [house.contact(n) for n in (1, 2)]
    change_contact(people[1], {"first_name": "<b>{{ account.name }}</b>"}, Cause())
    with clock.at(MONDAY):
        facts = load_facts(house.sailing, [one.pk for one in people])
        enrolling.enrol(workflow, [one.pk for one in people], "test", Cause())
        until_quiet()
        assert LetterWords.objects.count() == 1 and SentLetter.objects.count() == 2, (
            "what all are sent alike is kept once"
        )
        for one in people:
            played = rehearse(published_document(workflow.published_id or 0), facts[one.pk], MONDAY, ())
            [(_, effect)] = played.messages
            mail = Item.objects.get(theirs=facts[one.pk].contact.email)
            sent = Message.objects.get(contact=one)
            assert effect.letter is not None and mail.subject == effect.subject
            assert shown(mail.html) == shown(html_for(house.sailing, effect.letter))
            plain = re.sub(r"https?://\S+", "link", mail.text.split("\n\n--\n")[0])
            assert plain == re.sub(r"https?://\S+", "link", effect.body)
            links = {link.url: "/l/" for link in Link.objects.filter(message=sent)}
            assert set(links) == {"https://example.com/dates?a=1&b=2", "https://book.example.com/taster"}
            assert not any(f'href="{url}' in mail.html for url in links), "all are counted"
            assert mail.html.count("/l/") >= 2 and "#204060" in mail.html
            assert set(re.findall(r"/l/[\w.-]+\w", mail.html)) == set(re.findall(r"/l/[\w.-]+\w", mail.text))
        assert "&lt;b&gt;{{ account.name }}&lt;/b&gt;" in mail.html and "<b>" not in mail.html, (
            "never run, never markup"
        )


def test_the_words_of_a_letter_go_with_those_of_its_message(house: House) -> None:
    workflow = house.workflow(starts=[{"kind": "by_hand"}], steps=STEPS, hours=None)
    with clock.at(MONDAY) as move_to:
        enrolling.enrol(workflow, [house.contact(1).pk], "test", Cause())
        until_quiet()
        Message.objects.update(state=Message.State.DELIVERED)
        move_to(MONDAY + timedelta(days=40 * 31))
        while keeping.keep_batch(house.sailing):
            pass
    assert not SentLetter.objects.exists() and not Message.objects.exclude(body="").exists()


def test_a_letter_is_read_as_anybody_and_sent_to_oneself(house: House, signed_in: Callable[..., Client]) -> None:
    client, api = signed_in(house.consultant), "/api/accounts/sailing"
    asked = {"channel": "email", "body": "old words", "subject": "S", "letter": LETTER}
    seen = client.post(f"{api}/preview", asked, "application/json").json()
    assert seen["fault"] == "" and "<strong>" in seen["html"] and seen["body"].startswith("Spring")
    assert "old words" not in seen["html"] and seen["faults"] == []
    lost = asked | {"letter": {"lines": [{"id": "a", "kind": "button", "words": "Go"}]}}
    assert client.post(f"{api}/preview", lost, "application/json").json()["faults"] == ["A button leads nowhere yet."]
    unknown = asked | {"letter": {"lines": [{"id": "a", "kind": "script"}]}}
    assert client.post(f"{api}/preview", unknown, "application/json").status_code == 422
    assert client.post(f"{api}/test-message", asked, "application/json").status_code == 200
    mail = Item.objects.get(theirs=house.consultant.email)
    assert mail.subject == "Test: S" and "Hold me a place" in mail.html and "Spring" in mail.text
    assert Letter.model_validate(LETTER).plain().startswith("Spring") and not OwnCopy.objects.exists()


def test_a_picture_is_brought_in_shown_in_the_mail_and_stays_while_a_letter_shows_it(
    house: House, signed_in: Callable[..., Client]
) -> None:
    """Its file is never kept as it came (what a camera wrote into it is gone), and it is as large as it is shown, twice over."""
    photo, exif = io.BytesIO(), Image.Exif()
    exif[0x010E] = "where I live"  # ImageDescription, TIFF 6.0
    Image.effect_noise((3_000, 1_500), 60).convert("RGB").save(photo, "JPEG", exif=exif)
    client, api = signed_in(house.consultant), f"/api/accounts/{house.sailing.slug}/pictures"
    sent = client.post(api, {"file": SimpleUploadedFile("quay.jpg", photo.getvalue())})
    made = sent.json()
    assert sent.status_code == 201 and (made["width"], made["height"], made["name"]) == (1_120, 560, "quay.jpg")
    shown_alone = client.get(made["address"])
    assert shown_alone["Content-Type"] == "image/jpeg" and len(shown_alone.content) == made["bytes"]
    assert b"where I live" not in shown_alone.content
    assert brand_of(house.sailing).logo == "", "one for letters is no logo"
    lines = [{"id": "p", "kind": "picture", "address": made["address"], "words": "The quay"}]
    letter = Letter.model_validate({"lines": lines})
    assert not list(letter.faults())
    html = html_for(house.sailing, addressed(letter, lambda text: text))
    assert f'src="{settings.ADDRESS}{made["address"]}"' in html and 'alt="The quay"' in html
    step = {"id": "mail", "kind": "email", "message": {"name": "Q", "subject": "Q", "letter": letter.model_dump()}}
    house.workflow(steps=[step])
    assert client.delete(f"{api}/{made['id']}").status_code == 409
    more = client.post(api, {"file": SimpleUploadedFile("flag.png", png((40, 20)))}).json()
    assert [one["name"] for one in client.get(api).json()] == ["flag.png", "quay.jpg"]
    assert client.delete(f"{api}/{more['id']}").status_code == 204 and client.get(more["address"]).status_code == 404
    refused = client.post(api, {"file": SimpleUploadedFile("quay.jpg", b"<script>")})
    assert refused.json()["faults"]["file"].startswith("That is no picture")
    other = f"/api/accounts/{house.pottery.slug}/pictures"
    assert client.get(other).json() == [] and client.delete(f"{other}/{made['id']}").status_code == 404


def test_a_letter_is_read_as_who_has_the_longest_name_and_as_somebody_of_whom_nothing_is_known(
    house: House, signed_in: Callable[..., Client]
) -> None:
    house.contact(1)
    change_contact(house.contact(2), {"first_name": "Maximiliane-Charlotte", "last_name": "von der Aue"}, Cause())
    house.contact(3, house.pottery)
    client, api = signed_in(house.consultant), f"/api/accounts/{house.sailing.slug}/preview"
    letter = {"lines": [{"id": "p", "kind": "paragraph", "words": 'Hello {{ contact.first_name | default: "you" }}'}]}
    read = {}
    for reader in ("", "longest", "nothing"):
        asked = {"channel": "email", "body": "", "subject": "S", "letter": letter, "reader": reader}
        read[reader] = client.post(api, asked, "application/json").json()
    assert [one["body"] for one in read.values()] == ["Hello Robin", "Hello Maximiliane-Charlotte", "Hello you"]
    assert "Hello Maximiliane-Charlotte" in read["longest"]["html"] and read["nothing"]["contact"].strip() == ""


def png(size: tuple[int, int]) -> bytes:
    out = io.BytesIO()
    Image.new("RGBA", size, (30, 90, 120, 60)).save(out, "PNG")
    return out.getvalue()
