"""The head of an email on its way: read by two readers of mail, files kept once and looked at, left by one click, read in the web; and wordings
by shares, counted."""

import io
import json
import re
import subprocess
import zipfile
from collections.abc import Callable, Iterator
from datetime import timedelta
from email import message_from_bytes
from email.message import EmailMessage
from email.policy import default
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from bluffside.server.messaging.models import Link, MailFile, Message, OwnCopy, Reply, SentLetter
from bluffside.server.outside.models import Item
from bluffside.server.people.models import Consent, Contact
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows.house_rules import change_care
from bluffside.server.workflows.models import Workflow
from launcher import machine
from tests.core.examples import MONDAY
from tests.server.conftest import House
from tests.server.test_delivery import Collected, enrol, mail_server  # noqa: F401  # a fixture

PDF = b"%PDF-1.7\n1 0 obj <<>> endobj\ntrailer <<>>\n%%EOF\n"
LETTER = {"lines": [
    {"id": "p", "kind": "paragraph", "words": "Hello **{{ contact.first_name }}**, see [the dates](https://example.com/dates?a=1)"},
    {"id": "b", "kind": "button", "words": "Book", "leads_to": "https://example.com/book?utm_source=leaflet"},
]}  # fmt: skip
READ_WITH_POSTAL_MIME = """
const PostalMime = require("postal-mime");
const chunks = []; process.stdin.on("data", (one) => chunks.push(one)); process.stdin.on("end", async () => {
  const mail = await PostalMime.parse(Buffer.concat(chunks));
  const files = mail.attachments.map((one) => [one.filename, one.mimeType, Buffer.from(one.content).toString("latin1")]);
  console.log(JSON.stringify({to: mail.to, replyTo: mail.replyTo, subject: mail.subject, text: mail.text, html: mail.html, files}));
});
"""


def email(**message: Any) -> dict[str, Any]:
    return {
        "kind": "email",
        "id": "m",
        "purpose": "marketing",
        "message": {"name": "Spring dates", "subject": "Dates"} | message,
    }


def brought(client: Client, name: str, content: bytes) -> Any:
    return client.post("/api/accounts/sailing/files", {"file": SimpleUploadedFile(name, content)})


@pytest.fixture
def client(house: House, signed_in: Callable[..., Client]) -> Iterator[Client]:
    with clock.at(MONDAY):
        yield signed_in(house.consultant)


def test_a_letter_with_a_head_is_read_alike_by_two_readers_of_mail(
    house: House,
    client: Client,
    mail_server: Collected,  # noqa: F811
) -> None:
    """Python's own parser and postal-mime (npm), which share nothing: addresses, both parts, the file, and where links lead."""
    change_care(house.sailing, {"link_source": "bluffside", "link_medium": "email"}, house.consultant)
    house.sailing.refresh_from_db()
    made = brought(client, "C:\\prices 2027.exe", PDF).json()
    assert made["name"] == "prices 2027.pdf", "it is called what it is"
    head = {"called": "full", "reply_to": "mel@example.com", "files": [made]}
    [contact] = enrol(house, [email(letter=LETTER, head=head)])
    Contact.objects.update(first_name="Åda", last_name='Quay, "Sailor"')
    until_quiet()
    [wire] = mail_server.wires
    mail = message_from_bytes(wire, policy=default)
    assert isinstance(mail, EmailMessage)
    [to], [file] = mail["To"].addresses, list(mail.iter_attachments())
    assert (to.display_name, to.addr_spec) == ('Åda Quay, "Sailor"', contact.email) and mail[
        "Reply-To"
    ] == "mel@example.com"
    assert (file.get_filename(), file.get_content_type(), file.get_content()) == (
        "prices 2027.pdf",
        "application/pdf",
        PDF,
    )
    plain, html = (str(mail.get_body((sort,)).get_content()) for sort in ("plain", "html"))  # type: ignore[union-attr]
    env = machine.node()
    machine.node_packages(env)
    read = subprocess.run(
        ["node", "-e", READ_WITH_POSTAL_MIME], input=wire, capture_output=True, check=True, cwd=machine.WEB, env=env
    )
    other = json.loads(read.stdout)
    assert (other["to"], other["replyTo"]) == (
        [{"address": contact.email, "name": to.display_name}],
        [{"address": "mel@example.com", "name": ""}],
    )
    assert (other["subject"], other["files"]) == ("Dates", [["prices 2027.pdf", "application/pdf", PDF.decode()]])
    assert "".join(other["text"].split()) == "".join(plain.split()) and "".join(other["html"].split()) == "".join(
        html.split()
    )
    tagged = {link.url for link in Link.objects.all()}
    assert tagged == {
        "https://example.com/dates?a=1&utm_source=bluffside&utm_medium=email&utm_campaign=Spring%20dates",
        "https://example.com/book?utm_source=leaflet",
    }, "and one that is tagged already is left"
    assert max(map(len, wire.split(b"\r\n"))) <= 998 and wire.isascii()
    # RFC 8058: what is posted to the address of the header leaves at once, what is only fetched does not.
    leave = mail["List-Unsubscribe"].strip("<>")
    assert mail["List-Unsubscribe-Post"] == "List-Unsubscribe=One-Click" and leave in plain and leave in html
    outside, path = Client(enforce_csrf_checks=True), "/u/" + leave.rpartition("/")[2]
    withdrawn = Consent.objects.filter(contact=contact, channel="email", state="withdrawn")
    assert outside.get(path).status_code == 200 and not withdrawn.exists()
    assert outside.post(path, {"List-Unsubscribe": "One-Click"}).status_code == 200 and withdrawn.exists()


def test_a_letter_is_read_in_the_web_by_who_has_its_address_and_nobody_else(house: House, client: Client) -> None:
    [contact, other] = enrol(house, [email(letter=LETTER)], 2)
    until_quiet()
    mail = Item.objects.get(theirs=contact.email)
    path = "/r/" + mail.html.partition("/r/")[2].partition('"')[0]
    page = Client().get(path)
    assert page.status_code == 200 and f"<strong>{contact.first_name}</strong>" in page.content.decode()
    assert "default-src 'none'" in page["Content-Security-Policy"] and "sandbox" in page["Content-Security-Policy"]
    assert page["X-Robots-Tag"] == "noindex" and "/l/" in page.content.decode()
    theirs = Item.objects.get(theirs=other.email).html.partition("/r/")[2].partition('"')[0]
    assert Client().get("/r/" + theirs.rpartition(".")[0] + "." + path.rpartition(".")[2]).status_code == 404, (
        "the address of one is none of another"
    )
    SentLetter.objects.all().delete()
    assert Client().get(path).status_code == 410


def test_files_are_kept_once_looked_at_for_what_they_are_and_stay_while_a_message_carries_them(
    house: House, signed_in: Callable[..., Client]
) -> None:
    client, api = signed_in(house.consultant), "/api/accounts/sailing/files"
    macros = io.BytesIO()
    with zipfile.ZipFile(macros, "w") as archive:
        for name in ("[Content_Types].xml", "_rels/.rels", "word/document.xml", "word/vbaProject.bin"):
            archive.writestr(name, "x")
    for name, content in {
        "setup.pdf": b"MZ\x90\x00" + b"\0" * 80, "page.txt": b" <script>alert(1)</script>", "run.txt": b"#!/bin/sh", "a.docx": macros.getvalue(),
        "noise.csv": bytes(range(256)), "empty.pdf": b"", "large.pdf": PDF + b" " * 5 * 1024 * 1024,
    }.items():  # fmt: skip
        refused = brought(client, name, content)
        assert refused.status_code == 422 and "Nothing was changed" in refused.json()["faults"]["file"], name
    assert not MailFile.objects.exists()
    made = brought(client, "../../prices.pdf", PDF).json()
    assert brought(client, "again.pdf", PDF).json() == made and MailFile.objects.count() == 1
    assert brought(client, "tides.csv", b"day,high\n1,06:20").json()["name"] == "tides.csv"
    shown = client.get(f"{api}/{made['digest']}")
    assert (
        shown.content == PDF
        and 'filename="prices.pdf"' in shown["Content-Disposition"]
        and shown["X-Content-Type-Options"] == "nosniff"
    )
    workflow: Workflow = house.workflow(steps=[email(body="Hello", head={"files": [made]})])
    assert client.delete(f"{api}/{made['digest']}").status_code == 409
    pottery = f"/api/accounts/{house.pottery.slug}"
    assert (
        client.get(f"{pottery}/files").json() == []
        and client.get(f"{pottery}/files/{made['digest']}").status_code == 404
    )
    MailFile.objects.filter(digest=made["digest"]).delete()
    document = client.get(f"/api/accounts/sailing/workflows/{workflow.pk}").json()["document"]
    checks = client.post(
        "/api/accounts/sailing/read", {"document": document, "workflow_id": workflow.pk}, "application/json"
    ).json()["reading"]["checks"]
    assert [one["severity"] for one in checks if one["code"] == "no-such-file"] == ["error"]


def test_wordings_by_shares_are_sent_as_the_shares_are_and_counted_by_their_words(house: House, client: Client) -> None:
    others = [{"heading": "Other", "body": "B", "share": 1, "letter": LETTER}, {"body": "Nobody reads it", "share": 0}]
    enrol(house, [email(body="A https://example.com/a", by_share=True, share=1, others=others)], 30)
    until_quiet()
    workflow = Workflow.objects.get()
    counts = client.get(f"/api/accounts/sailing/workflows/{workflow.pk}/wordings/m").json()
    assert [one["number"] for one in counts] == [0, 1, 2]
    first, second, nobody = (one["sent"] for one in counts)
    assert first + second == 30 and nobody == 0 and min(first, second) >= 5
    assert (counts[0]["with_link"], counts[1]["with_link"]) == (first, second)
    assert SentLetter.objects.count() == second == Message.objects.filter(subject="Other").count()
    sent = Message.objects.filter(subject="Dates").order_by("id")[0]
    Reply.objects.create(
        account=house.sailing,
        contact=sent.contact,
        key="r",
        channel="email",
        text="yes",
        message=sent,
        received_at=MONDAY,
    )
    Link.objects.filter(message=sent).update(clicks=1)
    first_now = client.get(f"/api/accounts/sailing/workflows/{workflow.pk}/wordings/m").json()[0]
    assert (first_now["answered"], first_now["clicked"]) == (1, 1)


def test_a_wording_is_compared_with_the_first_once_there_are_enough_of_both(house: House, client: Client) -> None:
    enrol(house, [email(body="A", by_share=True, others=[{"heading": "Other", "body": "B"}])], 12)
    until_quiet()
    address = f"/api/accounts/sailing/workflows/{Workflow.objects.get().pk}/wordings/m"
    assert [one["against_first"] for one in client.get(address).json()] == ["", "too few to tell"]
    for subject, answered in (("Dates", 12), ("Other", 60)):
        like = Message.objects.filter(subject=subject)[0]
        for n in range(200):
            like.pk, like.key = None, f"{subject}.{n}"
            like.save(force_insert=True)
            if n < answered:
                said = {"contact": like.contact, "channel": "email", "text": "yes", "received_at": MONDAY}
                Reply.objects.create(account=house.sailing, key=like.key, message=like, **said)
    assert re.fullmatch(r"2\d in 100 more answered \(\d+ to \d+\)", client.get(address).json()[1]["against_first"])


def test_a_series_to_oneself_has_its_heads_and_nobody_else_gets_it(house: House, client: Client) -> None:
    made = brought(client, "prices.pdf", PDF).json()
    head = {"reply_to": "mel@example.com", "tagged": "own", "source": "test", "files": [made]}
    asked = {
        "channel": "email",
        "subject": "S",
        "body": "See https://example.com/x",
        "name": "N",
        "head": head,
        "letter": LETTER,
    }
    seen = client.post("/api/accounts/sailing/preview", asked, "application/json").json()
    assert seen["reply_to"] == "mel@example.com" and "utm_source=test&amp;utm_campaign=N" in seen["html"]
    assert client.post("/api/accounts/sailing/test-message", asked, "application/json").status_code == 200
    assert "utm_source=test" in Item.objects.get(theirs=house.consultant.email).html
    assert not OwnCopy.objects.exists() and not Message.objects.exists() and MONDAY + timedelta() == clock.now()
