"""People brought in: a dirty file row by row, cut off, taken back; and a notebook typed in."""

import re
from typing import Any

import pytest
from django.db import OperationalError
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.server.events.models import Event
from bluffside.server.events.stream import Cause
from bluffside.server.people import import_chunks, imports, quick
from bluffside.server.people.import_columns import Settings
from bluffside.server.people.models import (
    Consent,
    Contact,
    Field,
)
from bluffside.server.people.services import (
    BadContact,
    add_contact,
    set_fields,
)
from bluffside.server.people.spreadsheet import write_csv
from bluffside.server.people.tables import read_text
from tests.server.bringing import begin, finish
from tests.server.conftest import House

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
    assert mapping == {
        "0": "full_name", "1": "email", "2": "mobile", "3": "new:text:Date of birth", "4": "new:money:Balance",
        "5": "no_email", "6": "tags", "7": "field:Boat",
    }  # fmt: skip
    mapping |= {"3": "new:date:Born", "4": "new:money:Balance"}
    looked = {one.row: one.becomes for one in imports.look(imported, Settings(mapping=mapping))}
    assert looked == {2: "new", 3: "new", 4: "new", 5: "new", 6: "same", 7: "fault"}
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
    assert (imported.added, imported.partly, imported.skipped, imported.failed) == (4, 2, 1, 1)
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
    assert (again.added, again.changed, again.failed) == (1, 2, 0)
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
        ("Ana Reyes 07700 900123 ana@example.com asked about evening class", "Ana", "Reyes", "07700 900123", "ana@example.com", "asked about evening class"),
        ("Bo Marsh, bo@example.com, wants a Saturday", "Bo", "Marsh", "", "bo@example.com", "wants a Saturday"),
        ("07700 900124 Kit", "Kit", "", "07700 900124", "", ""),
        ("Jan van der Berg +44 7700 900125 - rang twice", "Jan", "van der Berg", "07700 900125", "", "rang twice"),
        ("gwen hythe gwen@example.com", "Gwen", "Hythe", "", "gwen@example.com", ""),
        ("Uma\t07700 900126\tuma@example.com\tprefers mornings", "Uma", "", "07700 900126", "uma@example.com", "prefers mornings"),
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
