"""Files of people of every sort, read by other readers, too; a dirty one; taking back; quick entry; one person of two;
erasing."""

import csv
import io
import json
import re
from datetime import date
from decimal import Decimal
from typing import Any

import pytest
import vobject
from django.db import OperationalError
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.core.workflow.files import parse_workflow
from bluffside.server.capture import forms
from bluffside.server.capture.models import FormAnswer
from bluffside.server.events.models import Event
from bluffside.server.events.stream import WORLD, Cause
from bluffside.server.hooks.models import Call
from bluffside.server.messaging.models import Message
from bluffside.server.outside.services import ask
from bluffside.server.people import erasing, exporting, import_chunks, imports, merging, quick, reading, sorting, vcard
from bluffside.server.people.import_columns import Settings
from bluffside.server.people.models import (
    Consent,
    Contact,
    ContactImport,
    Field,
    FurtherAddress,
    ImportFault,
    ImportPart,
)
from bluffside.server.people.services import (
    BadContact,
    add_contact,
    add_tags,
    set_consent,
    set_fields,
    set_further,
    set_list,
    set_responsible,
)
from bluffside.server.people.spreadsheet import BadSpreadsheet, harmless, write_csv
from bluffside.server.people.tables import read_table, read_text
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice import walls
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, writing
from bluffside.server.workflows.models import Enrolment
from tests.core.examples import ASK
from tests.server.conftest import NOON, House


def begin(house: House, data: bytes, **changes: Any) -> ContactImport:
    imported = imports.read_file(house.sailing, house.consultant, "people.csv", data)
    imports.start(imported, Settings(**(imported.settings | changes)))
    return imported


def finish(imported: ContactImport) -> ContactImport:
    while imports.import_chunk(imported.account):
        pass
    imported.refresh_from_db()
    return imported


# ---- reading


names = st.text(st.characters(categories=["L", "N", "P", "Zs"]), max_size=30).map(lambda said: " ".join(said.split()))
emails = st.integers(0, 10**6).map(lambda n: f"person.{n}@example.com")
mobiles = st.integers(0, 999).map(lambda n: f"+447700900{n:03}")
cards = st.builds(
    vcard.Card, names, names, st.lists(emails, max_size=2, unique=True), st.lists(mobiles, max_size=2, unique=True),
    names, st.sampled_from(["", "Europe/London"]), st.lists(names.filter(bool), max_size=3),
).filter(lambda card: card != vcard.Card() and (card.first_name or card.last_name))  # fmt: skip


@settings(max_examples=150)
@given(st.lists(cards, min_size=1, max_size=4))
def test_vcards_written_are_read_again_the_same_and_by_another_reader(made: list[vcard.Card]) -> None:
    """RFC 6350; `vobject` is the other reader."""
    text = "".join(vcard.write(made))
    assert all(len(line.encode()) <= 75 for line in text.split("\r\n"))
    assert vcard.read(text) == made
    for card, other in zip(made, vobject.readComponents(text), strict=True):
        assert [one.value for one in other.contents.get("email", [])] == card.emails
        assert [one.value for one in other.contents.get("tel", [])] == card.mobiles
        assert (other.n.value.given, other.n.value.family) == (card.first_name, card.last_name)


def test_cards_of_older_versions_are_read() -> None:
    text = (
        "BEGIN:VCARD\r\nVERSION:2.1\r\nN;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:N=C3=BA=C3=B1ez;Zo=C3=\r\n=AB\r\n"
        "TEL;HOME:01632 960001\r\nTEL;CELL;PREF:07700 900123\r\nEMAIL;INTERNET:zoe@example.com\r\nEND:VCARD\r\n"
        "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Bo Marsh\r\nitem1.EMAIL;TYPE=INTERNET:bo@exam\r\n ple.com\r\nADR;TYPE=HOME:;;1 Quay\\, Left;Tern;;TN1;\r\nEND:VCARD\r\n"
    )  # fmt: skip
    zoe, bo = vcard.read(text)
    assert (zoe.first_name, zoe.last_name, zoe.mobiles) == ("Zoë", "Núñez", ["07700 900123", "01632 960001"])
    assert (bo.first_name, bo.emails, bo.post) == ("Bo", ["bo@example.com"], "1 Quay, Left, Tern, TN1")


cells = st.text(st.characters(blacklist_categories=["Cs", "Cc"]), max_size=20).map(lambda said: " ".join(said.split()))
grids = st.integers(2, 5).flatmap(
    lambda width: st.lists(st.lists(cells, min_size=width, max_size=width), min_size=1, max_size=6)
)


@settings(max_examples=100)
@given(grids)
def test_tables_written_are_read_again_the_same(rows: list[list[str]]) -> None:
    """CSV, by us and by the standard library; and workbooks."""
    rows = [[f"x{row[0]}", *row[1:]] for row in rows]  # none is empty
    heads = [f"Head {n}" for n in range(len(rows[0]))]
    written = write_csv([heads, *rows])
    kept = list(csv.reader(io.StringIO(written.removeprefix("\ufeff"))))
    assert kept == [[harmless(cell) for cell in row] for row in [heads, *rows]]
    for table in (read_table(written.encode()), read_table(exporting.workbook(iter([heads, *rows])))):
        assert table.columns == heads
        assert (
            table.rows
            == [
                [cell[1:] if cell[:1] == "'" and cell[1:2] in "=+-@" and cell[1:] else cell for cell in row]
                for row in rows
            ]
            or table.rows == rows
        )


@settings(max_examples=200)
@given(
    st.one_of(
        st.binary(max_size=300),
        st.text(st.sampled_from("a@.,;\t|\"'\n\r \u00e9\x00=+-1"), max_size=200).map(str.encode),
        st.binary(max_size=120).map(lambda junk: b"PK\x03\x04" + junk),
        st.binary(max_size=80).map(lambda junk: b"BEGIN:VCARD\n" + junk + b"\nEND:VCARD"),
        st.tuples(st.integers(0, 4000), st.binary(min_size=1, max_size=4)).map(
            lambda cut: (
                (book := exporting.workbook(iter([["Name", "Email"], ["Ada", "ada@example.com"]])))[: cut[0]]
                + cut[1]
                + book[cut[0] + 1 :]
            )
        ),
    )
)
def test_no_file_fails_without_a_sentence(data: bytes) -> None:
    try:
        table = read_table(data)
    except BadSpreadsheet as error:
        assert str(error).endswith(".") and len(str(error)) > 10
        return
    assert table.rows and all(len(row) == len(table.columns) for row in table.rows)


@settings(max_examples=60, suppress_health_check=list(HealthCheck))
@given(
    rows=st.lists(
        st.lists(
            cells | emails | mobiles | st.sampled_from(["31/02/2026", "=1+1", "yes", "1.234,5"]), min_size=4, max_size=4
        ),
        min_size=1,
        max_size=6,
    ),
    targets=st.lists(
        st.sampled_from(
            ["full_name", "mobile", "zone", "tags", "no_email", "field:Born", "field:Budget", "post", "note"]
        ),
        min_size=3,
        max_size=3,
        unique=True,
    ),
)
def test_no_row_fails_without_a_reason(house: House, rows: list[list[str]], targets: list[str]) -> None:
    for name, kind in (("Born", "date"), ("Budget", "money")):
        Field.objects.get_or_create(account=house.sailing, name=name, kind=kind)
    table = read_text(
        "\n".join(["Email,B,C,D", *(write_csv([row]).strip("\ufeff\r\n") for row in [["x", *row[1:]] for row in rows])])
    )
    imported = imports.keep(house.sailing, house.consultant, "made up", table)
    mapping = {"0": "email"} | {str(n): target for n, target in enumerate(targets, start=1)}
    imports.look(imported, Settings(mapping=mapping))
    imports.start(imported, Settings(mapping=mapping))
    finish(imported)
    assert imported.added + imported.changed + imported.skipped + imported.failed == imported.row_count
    assert all(fault.reason for fault in imported.faults.all())


@pytest.mark.parametrize(
    ("values", "text", "means"),
    [
        (["03/04/2026", "25/12/2025"], "03/04/2026", date(2026, 4, 3)),
        (["03/04/2026", "12/25/2025"], "03/04/2026", date(2026, 3, 4)),
        (["2026-04-03"], "2026-04-03", date(2026, 4, 3)),
        (["3.4.26"], "3.4.26", date(2026, 4, 3)),
        (["1 March 1987"], "Sun, 1st March 1987", date(1987, 3, 1)),
        (["3/4/87"], "3/4/87", date(1987, 4, 3)),
    ],
)
def test_dates_are_read_by_the_rule_their_column_follows(values: list[str], text: str, means: date) -> None:
    assert reading.read_date(text, reading.guess_date_rule(values), date(2026, 3, 2)) == means


@pytest.mark.parametrize("text", ["31/02/2026", "00/01/2026", "soon", "2026-13-01", "1/2/3/4"])
def test_a_day_that_the_calendar_lacks_is_a_fault_and_is_not_bent(text: str) -> None:
    with pytest.raises(ValueError, match="“"):
        reading.read_date(text, "day_first")


@pytest.mark.parametrize(
    ("values", "text", "means"),
    [
        (["1.234,50 €"], "1.234,50 €", "1234.50"),
        (["£1,200", "£99.50"], "£1,200", "1200"),
        (["-12.5"], "−12.5", "-12.5"),
    ],
)
def test_numbers_are_read_by_the_rule_their_column_follows(values: list[str], text: str, means: str) -> None:
    assert reading.read_number(text, reading.guess_number_rule(values)) == Decimal(means)


# ---- bringing in

DIRTY = """Full Name;E-Mail;Telephone;Date of birth;Balance;Unsubscribed;Groups;Boat
"Reyes, Ana";ANA@Example.com;07700 900123;3/4/1987;£1,200.50;;crew, regatta;Gaff cutter
Bo Marsh;bo@example.com;+44 7700 900124;31/02/1990;12;;;
Zoé Núñez;zoe@example.com;not a phone;;;;;
Cai Fenn;cai@example.com;;25/12/1990;-3;yes;crew;=HYPERLINK("x")
Ana Reyes;ana@example.com;;;;;;
;;;;;;;
Nobody;;;;;;;
"""


def test_a_dirty_file_is_told_row_by_row_and_comes_back_corrected(house: House) -> None:
    """Mixed encodings, somebody twice, an impossible date, a formula; then the corrected rows are taken up as the rest was."""
    lines = DIRTY.encode().split(b"\n")
    lines[3] = lines[3].decode().encode("cp1252")
    Field.objects.create(account=house.sailing, name="Boat")
    imported = imports.read_file(house.sailing, house.consultant, "old list.csv", b"\n".join(lines))
    assert (
        imported.found["encoding"] == "UTF-8, 1 lines of it in Windows’ Western encoding"
        or "Western" in imported.found["encoding"]
    )
    mapping = dict(imported.settings["mapping"])
    assert mapping == {"0": "full_name", "1": "email", "2": "mobile", "5": "no_email", "6": "tags", "7": "field:Boat"}
    mapping |= {"3": "new:date:Born", "4": "new:money:Balance"}
    looked = {one.row: one.becomes for one in imports.look(imported, Settings(mapping=mapping))}
    assert looked == {2: "new", 3: "fault", 4: "fault", 5: "new", 6: "same", 7: "fault"}
    imports.start(
        imported,
        Settings(
            mapping=mapping,
            tags=["old list"],
            consent_channels=["email"],
            consent_evidence="summer fair",
            consent_wording="Yes please",
        ),
    )
    finish(imported)
    assert (imported.added, imported.skipped, imported.failed) == (2, 1, 3)
    ana, cai = (Contact.objects.get(email=f"{name}@example.com") for name in ("ana", "cai"))
    assert (ana.first_name, ana.last_name, ana.fields) == (
        "Ana",
        "Reyes",
        {"Boat": "Gaff cutter", "Born": "1987-04-03", "Balance": 1200.5},
    )
    assert {link.tag.name for link in ana.tagged.all()} == {"crew", "regatta", "old list"}
    assert Consent.objects.get(contact=ana, channel="email", purpose="marketing").wording == "Yes please"
    assert set(cai.consents.values_list("channel", "state")) == {("email", "withdrawn")}
    reasons = dict(imported.faults.values_list("row", "reason"))
    assert reasons == {
        3: "Born: “31/02/1990” is no day of the calendar, read day first",
        4: "“not a phone” is not a phone number",
        7: "neither an email nor a mobile number",
    }
    assert ("“…” is not a phone number", 1) in imports.reasons(imported)
    rows = [
        [*imported.columns, "Why it was not taken"],
        *([*one.cells, one.reason] for one in imported.faults.order_by("row")),
    ]
    text = (
        write_csv(rows)
        .replace("31/02/1990", "28/02/1990")
        .replace("not a phone", "07700 900125")
        .replace("Nobody,,", "Nobody,n@example.com,")
    )
    again = imports.read_file(house.sailing, house.consultant, "corrected.csv", text.encode())
    assert again.found["matched"] == "as “old list.csv” was"
    imports.start(again, Settings(**again.settings))
    finish(again)
    assert (again.added, again.failed) == (3, 0)
    assert Contact.objects.get(email="bo@example.com").fields["Born"] == "1990-02-28"
    assert Consent.objects.filter(contact__email="zoe@example.com", state="given").exists()


def test_an_import_that_is_cut_off_brings_everybody_in_once(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    text = "Name,Email\n" + "\n".join(f"N{n},n{n}@example.com" for n in range(1_700))
    imported = begin(house, text.encode(), tags=["come"])
    assert imports.import_chunk(house.sailing) == imports.CHUNK
    real, calls = import_chunks.add_tags, [0]

    def dies(*args: Any) -> Any:
        calls[0] += 1
        if calls[0] == 1:
            raise OperationalError("the database goes away")
        return real(*args)

    monkeypatch.setattr(import_chunks, "add_tags", dies)
    with pytest.raises(OperationalError):
        imports.import_chunk(house.sailing)
    finish(imported)
    assert (imported.added, imported.rows_done) == (1_700, 1_700)
    assert Contact.objects.filter(account=house.sailing, tagged__tag__name="come").count() == 1_700
    assert Event.objects.filter(kind="contact.added").count() == 1_700


def test_an_import_is_taken_back_but_for_whom_something_has_happened_to(house: House) -> None:
    ada = add_contact(house.sailing, {"first_name": "Ada", "email": "ada@example.com"})
    text = "First name,Email,Mobile\nAdeline,ada@example.com,07700900150\nBo,bo@example.com,\nCai,cai@example.com,\n"
    imported = begin(house, text.encode(), duplicates="overwrite", tags=["new"])
    finish(imported)
    cai = Contact.objects.get(email="cai@example.com")
    set_fields(cai, {"city": "Tern"})
    with pytest.raises(imports.CannotStart):
        imports.take_back(imports.keep(house.sailing, house.consultant, "p", read_text("a@example.com,b")))
    imports.take_back(imported)
    finish(imported)
    ada.refresh_from_db()
    assert (imported.state, imported.kept) == ("taken_back", 1)
    assert sorted(house.sailing.contacts.values_list("first_name", flat=True)) == ["Ada", "Cai"]
    assert (ada.first_name, ada.mobile) == ("Ada", "")
    assert (
        not Event.objects.filter(data__how__contains="people.csv", kind="contact.added")
        .exclude(contact_id=cai.id)
        .exists()
    )


# ---- quick entry


@pytest.mark.parametrize(
    ("text", "first", "last", "mobile", "email", "note"),
    [
        ("Ana Reyes 07700 900123 ana@example.com asked about evening class", "Ana", "Reyes", "+447700900123", "ana@example.com", "asked about evening class"),
        ("Bo Marsh, bo@example.com, wants a Saturday", "Bo", "Marsh", "", "bo@example.com", "wants a Saturday"),
        ("07700 900124 Kit", "Kit", "", "+447700900124", "", ""),
        ("Jan van der Berg +44 7700 900125 - rang twice", "Jan", "van der Berg", "+447700900125", "", "rang twice"),
        ("gwen hythe gwen@example.com", "Gwen", "Hythe", "", "gwen@example.com", ""),
        ("Uma\t07700 900126\tuma@example.com\tprefers mornings", "Uma", "", "+447700900126", "uma@example.com", "prefers mornings"),
        ("Zoë <zoe@example.com>", "Zoë", "", "", "zoe@example.com", ""),
    ],
)  # fmt: skip
def test_a_line_of_a_notebook_is_understood(
    house: House, text: str, first: str, last: str, mobile: str, email: str, note: str
) -> None:
    line = quick.understand(house.sailing, text)
    assert (line.first_name, line.last_name, line.mobile, line.email, line.note, line.fault) == (
        first,
        last,
        mobile,
        email,
        note,
        "",
    )


WORDS = [
    "Ana",
    "reyes",
    "van",
    "der",
    "07700 900123",
    "+44 7700 9001",
    "ana@example.com",
    "bo@",
    "a@b",
    "-",
    ",",
    "#crew",
    "(rang)",
    "\t",
    "Dr.",
    "x12",
]


@given(text=st.text(max_size=80) | st.lists(st.sampled_from(WORDS), max_size=9).map(" ".join))
@settings(max_examples=200, suppress_health_check=list(HealthCheck))
def test_any_line_is_answered_and_loses_nothing_but_its_punctuation(house: House, text: str) -> None:
    line = quick.understand(house.sailing, text.replace("\0", ""))
    kept = " ".join((line.first_name, line.last_name, line.mobile, line.email, line.note, *line.tags)).casefold()
    lost = {word for word in re.findall(r"[^\W\d_]+", text.casefold()) if word not in kept}
    assert not lost


def test_an_address_that_is_none_stands_to_be_corrected(house: House) -> None:
    line = quick.understand(house.sailing, "Bo Marsh 07700 9001 bo@example.com")
    assert (line.mobile, line.email) == ("07700 9001", "bo@example.com") and "not a number" in line.fault
    with pytest.raises(BadContact):  # and is not kept without it
        quick.add(house.sailing, line, Cause())
    line = quick.understand(house.sailing, "Bo bo@example")
    assert line.email == "bo@example" and line.fault


def test_lines_are_kept_each_by_itself(api: Any, house: House) -> None:
    house.contact(1)
    _, lines = api(
        "POST",
        "quick/understand",
        {"text": "Ana Reyes ana@example.com #crew came by\nP1 p1@example.com rang\nnobody at all"},
    )
    assert [line["known"] for line in lines] == ["", "P1", ""]
    assert lines[2]["fault"] == "no email and no number yet"
    _, done = api("POST", "quick", lines)
    assert [(one["new"], bool(one["fault"])) for one in done] == [(True, False), (False, False), (False, True)]
    assert Event.objects.filter(kind="note.added").count() == 2
    assert Contact.objects.get(email="ana@example.com").tagged.get().tag.name == "crew"


# ---- one person of two, and nobody any more


def test_two_are_made_one_and_nothing_is_lost(house: House) -> None:
    account, workflow = house.sailing, house.workflow()
    one = add_contact(account, {"first_name": "Ana", "last_name": "Reyes", "email": "ana@example.com"})
    other = add_contact(
        account, {"first_name": "Ana", "last_name": "Reyes", "email": "a.na+x@example.com", "mobile": "07700900123"}
    )
    for contact in (one, other):
        enrolling.enrol(workflow, [contact.id], "test", WORLD)
        Deal.objects.create(
            account=account, contact=contact, ref="d", pipeline="Courses", stage="New", created_at=NOON, since=NOON
        )
    until_quiet()
    set_fields(other, {"Boat": "Gaff cutter"})
    set_consent(account, [one.id], "email", True, "ticked")
    set_consent(account, [other.id], "email", False, "asked to stop")
    set_list(account, [other.id], "regatta", True)
    add_tags(account, [(one.id, "crew", WORLD), (other.id, "crew", WORLD), (other.id, "shore", WORLD)])
    pairs = merging.duplicates(account)
    assert [(pair.first, pair.second, pair.why) for pair in pairs] == [(one.id, other.id, "the same name")]
    before = Event.objects.filter(contact_id__in=(one.id, other.id)).count()
    kept = merging.merge(account, one.id, other.id, ["email"], Cause(actor=house.consultant))
    kept.refresh_from_db()
    assert (kept.email, kept.mobile, kept.fields, kept.lists) == (
        "a.na+x@example.com",
        "+447700900123",
        {"Boat": "Gaff cutter"},
        ["regatta"],
    )
    assert list(FurtherAddress.objects.values_list("address", flat=True)) == ["ana@example.com"]
    assert Consent.objects.get(contact=kept, channel="email", purpose="marketing").state == "withdrawn"
    assert sorted(link.tag.name for link in kept.tagged.all()) == ["crew", "shore"]
    assert kept.deals.count() == 2 and kept.messages.count() == 1
    assert sorted(Enrolment.objects.filter(contact=kept).values_list("ended", flat=True)) == [
        "",
        "the contact was merged into one who is in this workflow, too",
    ]
    assert Event.objects.filter(contact_id=one.id).count() == before + 1
    assert merging.duplicates(account) == []
    assert add_contact(account, {"first_name": "New", "email": "new@example.com"})
    finish(begin(house, b"Name,Email,Phone\nAna R,ana@example.com,\n"))
    assert Contact.objects.filter(account=account).count() == 2  # known by the further address


def test_a_pair_that_is_two_people_is_not_shown_again(api: Any, house: House) -> None:
    for n in (1, 2):
        add_contact(house.sailing, {"first_name": "Ana", "last_name": "Reyes", "email": f"a{n}@example.com"})
    _, found = api("GET", "duplicates")
    pair = found["pairs"][0]
    assert pair["compared"][2] == {"name": "email", "values": ["a1@example.com", "a2@example.com"]}
    assert api("POST", "duplicates/two", {"first": pair["second"]["id"], "second": pair["first"]["id"]})[0] == 204
    assert api("GET", "duplicates")[1]["count"] == 0


def test_who_is_erased_is_gone_and_their_no_is_kept(api: Any, house: House) -> None:
    contact = house.contact(1)
    enrolling.enrol(house.workflow(), [contact.id], "test", WORLD)
    until_quiet()
    set_further(contact, "email", "other@example.com", True)
    set_consent(house.sailing, [contact.id], "email", False, "asked to stop")
    form = forms.make(house.sailing, "After the call", for_team=True)
    forms.fill_in(form, contact, {"q1": ["Their secret"]}, house.consultant)
    finish(begin(house, b"Name,Email,Phone\nP1 Secret,p1@example.com,0\n"))
    assert ImportFault.objects.count() == 1
    assert api("POST", f"contacts/{contact.id}/erase", {"name": "Somebody"})[0] == 422
    assert api("POST", f"contacts/{contact.id}/erase", {"name": "p1", "why": "asked"})[0] == 204
    assert not Contact.objects.filter(id=contact.id).exists() and not Message.objects.exists()
    assert set(Event.objects.values_list("kind", flat=True)) == {"contact.erased", "workflow.published"}
    assert not FormAnswer.objects.exists() and not ImportFault.objects.exists() and not ImportPart.objects.exists()
    everything = str(list(erasing.Erased.objects.values()))
    assert "p1@example.com" not in everything and "7700" not in everything
    finish(begin(house, b"Name,Email\nP,other@example.com\n", consent_channels=["email"], consent_evidence="fair"))
    again = Contact.objects.get(email="other@example.com")
    assert set(again.consents.filter(channel="email").values_list("state", flat=True)) == {"withdrawn"}


# ---- sorting and choosing


def test_a_field_that_changes_its_kind_reads_its_values_anew_or_says_which_does_not_fit(api: Any, house: House) -> None:
    _, field = api("POST", "fields", {"name": "Born", "kind": "text"})
    contact = house.contact(1)
    set_fields(contact, {"Born": "25/12/1990"})
    assert api("PUT", f"fields/{field['id']}", {"name": "Born", "kind": "number"})[0] == 422
    assert api("PUT", f"fields/{field['id']}", {"name": "Born", "kind": "date"})[0] == 200
    contact.refresh_from_db()
    assert contact.fields == {"Born": "1990-12-25"}
    assert api("PUT", f"contacts/{contact.id}/fields", {"values": {"Born": "31/02/1990"}})[0] == 422
    assert api("POST", "fields", {"name": "born", "kind": "date"}) == (
        422,
        {"detail": "There is a field “born” already."},
    )


def test_tags_are_merged_and_lists_are_kept(api: Any, house: House) -> None:
    one, other = house.contact(1), house.contact(2)
    add_tags(house.sailing, [(one.id, "crew", WORLD), (other.id, "Crew members", WORLD)])
    tags = {tag["name"]: tag["id"] for tag in api("GET", "tags")[1]}
    assert api("POST", f"tags/{tags['Crew members']}/merge", {"into": tags["crew"]})[1] == {"count": 1}
    assert [(tag["name"], tag["contacts"]) for tag in api("GET", "tags")[1]] == [("crew", 2)]
    set_list(house.sailing, [one.id], "regatta", True)
    api("PUT", "lists", {"name": "regatta", "offered": True, "offered_as": "Race days"})
    assert api("GET", "lists")[1] == [
        {"name": "regatta", "about": "", "offered": True, "offered_as": "Race days", "contacts": 1}
    ]


def test_a_field_of_several_words_is_read_as_another_kind(house: House) -> None:
    field = sorting.keep_field(house.sailing, "Date of birth", "text", [], house.consultant)
    contact = house.contact()
    set_fields(contact, {field.name: "3 February 1990"})
    sorting.keep_field(house.sailing, field.name, "date", [], house.consultant, field)
    contact.refresh_from_db()
    assert contact.fields == {"Date of birth": "1990-02-03"}


def test_what_has_a_name_is_called_otherwise_everywhere_unless_a_workflow_runs_with_it(api: Any, house: House) -> None:
    ana = house.contact(1)
    born, crew = {"kind": "date", "choices": []}, {"about": ""}
    _, field = api("POST", "fields", {"name": "Bron", **born})
    file = b"Email,Joined,Bron\np1@example.com,x,1990-02-03\n"
    finish(begin(house, file, duplicates="overwrite", tags=["crw"], lists=["raecs"]))
    add_tags(house.sailing, [(ana.id, "crw", WORLD)])
    set_list(house.sailing, [ana.id], "raecs", True)
    tag = next(one["id"] for one in api("GET", "tags")[1] if one["name"] == "crw")
    after = {"test": "field", "field": "Bron", "compare": "known"}
    where = {"test": "all", "of": [after, {"test": "tag", "tag": "crw"}, {"test": "list", "list": "raecs"}]}
    api("POST", "segments", {"name": "Keen", "condition": where})
    question = {"id": "b", "label": "Born?", "fills": "field:Bron", "kind": "date"}
    design = {"questions": [question], "tags": ["crw"], "lists": ["raecs"]}
    _, form = api("POST", "forms", {"name": "Talk", "for_team": True})
    api("PUT", f"forms/{form['id']}", {"design": design, "open": True})
    message = {"name": "Hi", "body": '{{ contact.fields.Bron | default: "soon" }}'}
    steps = [{"kind": "text", "id": "m", "message": message}, {"kind": "tag", "id": "t", "tag": "crw"}]
    draft = writing.create(house.sailing, parse_workflow(ASK | {"steps": steps}), house.consultant)

    assert api("PUT", f"fields/{field['id']}", {"name": "Born", **born})[1] == {**field, "name": "Born", "filled": 1}
    assert api("PUT", f"tags/{tag}", {"name": "crew", **crew})[0] == 200
    assert api("PUT", "lists", {"name": "races", "was": "raecs"})[1]["contacts"] == 1
    row = Contact.objects.get()
    assert (row.fields, row.lists, row.tagged.get().tag.name) == ({"Born": "1990-02-03"}, ["races"], "crew")
    assert api("POST", "contacts/count", {"segment": "Keen"})[1] == {"count": 1}
    kept = api("GET", f"forms/{form['id']}")[1]["design"]
    assert (kept["questions"][0]["fills"], kept["tags"], kept["lists"]) == ("field:Born", ["crew"], ["races"])
    names = {(use["kind"], use["name"]) for use in api("GET", "uses")[1] if use["title"] == draft.name}
    assert {("field", "Born"), ("tag", "crew")} <= names
    again = imports.read_file(house.sailing, house.consultant, "next.csv", file)
    assert again.settings["mapping"]["2"] == "field:Born"  # as the first was, by what it is called now
    first = ContactImport.objects.exclude(id=again.id).get()
    assert (first.settings["tags"], first.settings["lists"]) == (["crew"], ["races"])
    imports.take_back(first)
    while imports.import_chunk(house.sailing):
        pass
    assert Contact.objects.get().fields in ({}, {"Born": None})

    draft.refresh_from_db()
    writing.publish(draft, draft.revision, house.consultant)
    status, said = api("PUT", f"tags/{tag}", {"name": "hands", **crew})
    assert status == 422 and said["detail"].startswith(f"“{draft.name}” runs with “crew”.")
    assert api("PUT", f"fields/{field['id']}", {"name": "Birthday", **born})[0] == 422


def test_a_segment_is_kept_counted_and_used(api: Any, house: House) -> None:
    for n in range(1, 5):
        house.contact(n)
    add_tags(house.sailing, [(contact.id, "crew", WORLD) for contact in house.sailing.contacts.order_by("id")[:3]])
    where = {
        "test": "all",
        "of": [
            {"test": "tag", "tag": "crew"},
            {"test": "field", "field": "first_name", "compare": "is_not", "value": "p1"},
        ],
    }
    assert api("POST", "contacts/count", {"where": where})[1] == {"count": 2}
    status, segment = api("POST", "segments", {"name": "Keen", "condition": where})
    assert (status, segment["count"]) == (201, 2)
    assert segment["words"] == "has the tag “crew” and first name is not “p1”"
    assert api("POST", "contacts/find", {"who": {"segment": "Keen", "q": "p2"}})[1]["count"] == 1
    assert api("POST", "contacts/list", {"who": {"segment": "Keen"}, "list": "regatta"})[1]["count"] == 2
    given = {"who": {"list": "regatta"}, "member": "Mel R"}
    _, assigned = api("POST", "contacts/assign", given)
    assert assigned["count"] == 2 and [len(ids) for ids in assigned["before"].values()] == [2]
    assert set(assigned["before"]) == {""} and api("POST", "contacts/assign", given)[1] == {"count": 0, "before": {}}
    _, back = api("POST", "contacts/assign", {"who": {"ids": assigned["before"][""]}, "member": ""})
    assert back == {"count": 2, "before": {"Mel R": assigned["before"][""]}}
    assert api("POST", "segments", {"name": "keen", "condition": where})[0] == 422
    assert api("POST", "contacts/find", {"who": {"segment": "Gone"}})[0] == 422
    assert api("POST", "contacts/count", {"where": {"test": "tag", "tag": ""}})[0] == 422


def test_people_go_out_as_files_that_come_in_again(house: House, signed_in: Any) -> None:
    Field.objects.create(account=house.sailing, name="Boat")
    ana = add_contact(
        house.sailing, {"first_name": "Ana", "last_name": "=1+1", "email": "ana@example.com", "mobile": "07700900123"}
    )
    set_fields(ana, {"Boat": "@cutter"})
    add_tags(house.sailing, [(ana.id, "crew", WORLD)])
    set_further(ana, "email", "other@example.com", True)
    set_further(ana, "email", "third@example.com", True)
    set_responsible(house.sailing, [ana.id], house.member)
    set_consent(house.sailing, [ana.id], "text", False, "wrote “stop”")
    files: dict[str, bytes] = {}
    for kind in ("csv", "xlsx", "vcf"):
        answer = signed_in(house.consultant).post(
            f"/api/accounts/sailing/contacts/export/{kind}", {}, content_type="application/json"
        )
        walls.leave()  # as a server has, by the time it sends what is streamed
        files[kind] = b"".join(answer.streaming_content) if answer.streaming else answer.content
        walls.enter(house.sailing)
    text, book, cards = files["csv"].decode(), files["xlsx"], files["vcf"]
    assert "'=1+1" in text and "'@cutter" in text
    for data in (text.encode(), book, cards):
        Contact.objects.all().delete()
        finish(begin(house, data))
        back = Contact.objects.get()
        assert (back.first_name, back.last_name, back.email, back.mobile) == (
            "Ana",
            "=1+1",
            "ana@example.com",
            "+447700900123",
        )
        further = list(back.further_addresses.order_by("id").values_list("address", flat=True))
        assert back.tagged.get().tag.name == "crew" and further == ["other@example.com", "third@example.com"]
        if data != cards:  # a vCard has no place for these
            assert back.fields == {"Boat": "@cutter"} and back.responsible == house.member
            assert set(Consent.objects.filter(contact=back, state="withdrawn").values_list("channel", flat=True)) == {
                "text"
            }


def test_a_column_says_who_is_responsible_and_who_is_nobody_is_named(house: House) -> None:
    data = b"Email,Owner\nana@example.com,mel r\nbea@example.com,MEL@example.com\ncleo@example.com,Nora\n"
    imported = finish(begin(house, data))
    held = dict(Contact.objects.values_list("email", "responsible__name"))
    assert held == {"ana@example.com": "Mel R", "bea@example.com": "Mel R"}
    assert [one.reason for one in ImportFault.objects.filter(of=imported)] == ["nobody of the team is called “Nora”"]
    again = finish(begin(house, b"Email,Owner\nana@example.com,Imogen F\n", duplicates="overwrite"))
    assert Contact.objects.get(email="ana@example.com").responsible == house.consultant
    imports.take_back(again)
    finish(again)
    assert Contact.objects.get(email="ana@example.com").responsible == house.member


def test_lists_in_outside_services_are_changed_from_the_contact(api: Any, house: House) -> None:
    """The request is on its way with who it is about; the stand-in's answer is what the page shows."""
    contact = house.contact(1)
    path, news = f"contacts/{contact.id}/outside-lists", {"service": "Gull Post", "what": "list", "name": "News"}
    for on in (True, False):
        assert api("PUT", path, news | {"on": on})[0] == 202
        call = Call.objects.filter(contact_id=contact.id).latest("id")
        ask("series", call.key, "sailing", json.loads(call.body))
        assert api("GET", path)[1] == ([news] if on else [])


def test_an_enrolment_names_the_lines_it_can_be_moved_to(api: Any, house: House) -> None:
    contact, workflow = house.contact(1), house.workflow()
    enrolling.enrol(workflow, [contact.id], "test", WORLD)
    until_quiet()
    row = api("GET", f"contacts/{contact.id}/enrolments")[1][0]
    lines = api("GET", f"enrolments/{row['id']}/lines")[1]
    assert row["where"] in [line["words"] for line in lines]
    last = lines[-1]["id"]
    assert api("POST", f"workflows/{workflow.id}/inside/move", {"ids": [row["id"]], "to": last})[1] == {"count": 1}
