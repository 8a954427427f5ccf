"""Contacts and bringing them in: 10,000 rows, bad rows, duplicates, consent."""

import csv
import io
from dataclasses import fields
from datetime import UTC, date, datetime

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from bluffside.core.conditions.person import OWN_FIELDS
from bluffside.core.facts import Contact as FactsContact
from bluffside.core.own_fields import FURTHER, OWN
from bluffside.server.capture.preferences import DETAILS
from bluffside.server.events.models import Event
from bluffside.server.events.stream import WORLD
from bluffside.server.messaging.services import ask_for_quiet
from bluffside.server.people import addresses, imports
from bluffside.server.people.api import contact_row
from bluffside.server.people.import_columns import Settings
from bluffside.server.people.models import Consent, Contact, ContactImport, Field
from bluffside.server.people.models import Contact as ContactRow
from bluffside.server.people.services import BadContact, add_contact, set_consent, set_fields, set_responsible
from bluffside.server.people.spreadsheet import BadSpreadsheet, harmless
from bluffside.server.people.tables import read_table
from bluffside.server.practice import clock
from bluffside.server.workflows.story import story_of
from tests.server.conftest import House


def bring_in(house: House, text: str, **settings: object) -> ContactImport:
    imported = imports.read_file(house.sailing, house.consultant, "people.csv", text.encode())
    imports.start(imported, Settings(**(imported.settings | settings)))
    while imports.import_chunk(imported.account):
        pass
    imported.refresh_from_db()
    return imported


def test_ten_thousand_rows_come_in_and_bad_ones_are_told_apart(house: House) -> None:
    rows = [f"Nia {n},nia{n}@example.com,07700 9{n:05}" for n in range(10_000)]
    for n in range(0, 10_000, 1_000):
        rows[n] = f"Bad {n},not-an-address,"
    imported = bring_in(
        house, "\n".join(["Name,Email,Phone", *(row.rsplit(",", 1)[0] + "," for row in rows)]), tags=["list"]
    )
    assert (imported.state, imported.added, imported.failed) == ("done", 9_990, 10)
    assert Contact.objects.filter(account=house.sailing, tagged__tag__name="list").count() == 9_990
    fault = imported.faults.order_by("row").first()
    assert fault and (fault.row, fault.reason) == (2, "“not-an-address” is not an email address")


def test_numbers_are_e164_and_duplicates_are_matched_by_email_or_phone(house: House) -> None:
    ada = add_contact(house.sailing, {"first_name": "Ada", "mobile": "+447700900123"})
    text = (
        "First name;Email;Mobile\nAda;ADA@Example.com;07700 900123\nBo;bo@example.com;07700900124\nBo;bo@example.com;"
    )
    imported = bring_in(house, text)
    ada.refresh_from_db()
    assert ada.email == "ada@example.com"
    assert (imported.added, imported.changed, imported.skipped) == (1, 1, 1)
    assert Contact.objects.get(email="bo@example.com").mobile == "+447700900124"


@pytest.mark.parametrize(("mode", "name"), [("skip", "Ada"), ("fill", "Ada"), ("overwrite", "Adeline")])
def test_somebody_known_is_skipped_filled_or_overwritten(house: House, mode: str, name: str) -> None:
    ada = add_contact(house.sailing, {"first_name": "Ada", "email": "ada@example.com"})
    bring_in(house, "First name,Surname,Email\nAdeline,Marsh,ada@example.com", duplicates=mode)
    ada.refresh_from_db()
    assert (ada.first_name, ada.last_name) == (name, "" if mode == "skip" else "Marsh")


def test_a_row_that_fits_two_people_is_given_back(house: House) -> None:
    add_contact(house.sailing, {"first_name": "Ada", "email": "ada@example.com"})
    add_contact(house.sailing, {"first_name": "Bo", "mobile": "+447700900124"})
    imported = bring_in(house, "Name,Email,Mobile\nWho,ada@example.com,07700900124")
    assert imported.faults.get().reason == "the email belongs to Ada, the mobile number to Bo"


def test_consent_is_stated_and_does_not_undo_an_opt_out(house: House) -> None:
    ada = add_contact(house.sailing, {"first_name": "Ada", "email": "ada@example.com"})
    set_consent(house.sailing, [ada.id], "email", False, "asked")
    text = "Name,Email\nAda,ada@example.com\nBo,bo@example.com"
    with pytest.raises(imports.CannotStart, match="how these people agreed"):
        bring_in(house, text, consent_channels=["email"])
    bring_in(house, text, consent_channels=["email"], consent_evidence="open day")
    assert set(Consent.objects.filter(contact=ada).values_list("state", flat=True)) == {"withdrawn"}
    assert {one.evidence for one in Consent.objects.filter(contact__email="bo@example.com")} == {"open day"}


def test_a_stopped_import_keeps_what_came_in(house: House) -> None:
    text = "Name,Email\n" + "\n".join(f"N,n{n}@example.com" for n in range(1_200))
    imported = imports.read_file(house.sailing, house.consultant, "p.csv", text.encode())
    imports.start(imported, Settings(**imported.settings))
    assert imports.import_chunk(house.sailing) == imports.CHUNK
    imports.stop(imported)
    assert imports.import_chunk(house.sailing) == 0
    assert house.sailing.contacts.count() == imports.CHUNK


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "cp1252", "utf-16"])
@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
def test_files_are_read_in_common_encodings_and_delimiters(encoding: str, delimiter: str) -> None:
    text = "Name|Email|Note\nZoë Núñez|zoe@example.com|Café “Möwe”\nJosé Peña|jose@example.com|Straße\n".replace(
        "|", delimiter
    )
    table = read_table((text * (3 if encoding == "cp1252" else 1)).encode(encoding))
    assert table.columns == ["Name", "Email", "Note"]
    assert table.rows[0][0] == "Zoë Núñez"


@pytest.mark.parametrize(
    "data", [b"", b"Name,Email", b"PK\x03\x04\x00\x00", b"BEGIN:VCARD\r\nEND:VCARD\r\n", b"\x00\x01\x02"]
)
def test_what_is_no_table_is_refused_in_words(data: bytes) -> None:
    with pytest.raises(BadSpreadsheet):
        read_table(data)


def test_rows_to_correct_come_back_as_a_file_no_spreadsheet_runs(house: House, signed_in) -> None:  # type: ignore[no-untyped-def]
    client = signed_in(house.consultant)
    file = SimpleUploadedFile("p.csv", b'Name,Email\n"=HYPERLINK(1)",oops\n')
    made = client.post("/api/accounts/sailing/imports", {"file": file}).json()
    path = f"/api/accounts/sailing/imports/{made['id']}"
    client.post(f"{path}/start", made["settings"], content_type="application/json")
    imports.import_chunk(house.sailing)
    text = b"".join(client.get(f"{path}/faults.csv").streaming_content).decode("utf-8-sig")
    rows = list(csv.reader(io.StringIO(text)))
    assert rows[1] == ["'=HYPERLINK(1)", "oops", "“oops” is not an email address"]
    assert harmless("+44 7700 900123") == "+44 7700 900123"


def test_a_number_or_email_belongs_to_one_contact_of_an_account(house: House) -> None:
    house.contact(1)
    with pytest.raises(BadContact, match="belongs to P1 already"):
        add_contact(house.sailing, {"email": "P1@example.com"})
    house.contact(1, house.pottery)


@pytest.mark.parametrize("text", ["12345", "0770", "+44 20 7946 abc", "+1 555"])
def test_what_is_no_number_is_refused(text: str) -> None:
    with pytest.raises(ValueError, match="number"):
        addresses.mobile(text, "GB")


def test_what_happens_to_contacts_is_recorded_with_it(house: House, signed_in) -> None:  # type: ignore[no-untyped-def]
    contact = house.contact()
    path = f"/api/accounts/sailing/contacts/{contact.id}"
    signed_in(house.member).patch(path, {"last_name": "Marsh"}, content_type="application/json")
    events = list(Event.objects.order_by("id").values_list("kind", "actor__name"))
    assert events == [("contact.added", None), ("contact.changed", "Mel R")]


def test_days_are_the_accounts_own_and_stand_in_words(house: House) -> None:
    """At 13:30 on 4 March in Greenwich it is 5 March in Hobart (UTC+11 until April)."""
    account = house.sailing
    account.zone = "Australia/Hobart"
    account.save()
    Field.objects.create(account=account, name="Born", kind="date")
    Field.objects.create(account=account, name="Says", kind="text")
    with clock.at(datetime(2026, 3, 4, 13, 30, tzinfo=UTC)):
        contact = house.contact(1)
        set_consent(account, [contact.id], "text", True, "said so", WORLD)
        set_fields(contact, {"Born": date(1990, 2, 3), "Says": "2026-02-31"})  # a line may say what it will
        set_responsible(account, [contact.id], house.member)
        ask_for_quiet(contact, 1)
    row = contact_row(Contact.objects.get())
    assert row.added == "Thu 5 Mar 2026" and {one.how for one in row.said} == {"Thu 5 Mar 2026"}
    told = {one.sentence for one in story_of(Contact.objects.get())}
    assert {
        "“Born” is now Sat 3 Feb 1990",
        "“Says” is now 2026-02-31",
        "Now with Mel R",
        "Asked for quiet until Thu 12 Mar 2026",
    } <= told


def test_a_contacts_own_fields_are_one_table_that_columns_and_facts_keep_to() -> None:
    columns = {one.name: one for one in ContactRow._meta.get_fields()}
    parts = {one.name for one in fields(FactsContact)}
    for name, own in OWN.items():
        assert columns[name].max_length == own.longest  # type: ignore[union-attr]
        assert name in parts and own.label.islower()
    assert set(OWN_FIELDS) == {*OWN, *FURTHER} and set(DETAILS) <= set(OWN)
    guessed = [heading for one in OWN.values() for heading in one.headings]
    assert len(guessed) == len(set(guessed)), "a heading is guessed to be one thing"
