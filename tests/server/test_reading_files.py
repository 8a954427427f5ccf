"""Files of any sort are read: vCards, tables, dates and numbers by the rule of their column; whatever they hold, in words."""

import csv
import io
from datetime import date
from decimal import Decimal

import pytest
import vobject
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.server.people import exporting, imports, reading, vcard
from bluffside.server.people.import_columns import Settings
from bluffside.server.people.models import (
    Field,
)
from bluffside.server.people.spreadsheet import BadSpreadsheet, harmless, write_csv
from bluffside.server.people.tables import read_table, read_text
from tests.server.bringing import finish
from tests.server.conftest import House

names = st.text(st.characters(categories=["L", "N", "P", "Zs"]), max_size=30).map(lambda said: " ".join(said.split()))
emails = st.integers(0, 10**6).map(lambda n: f"person.{n}@example.com")
mobiles = st.integers(0, 999).map(lambda n: f"+447700900{n:03}")
cards = st.builds(
    vcard.Card, names, names, st.lists(emails, max_size=2, unique=True), st.lists(mobiles, max_size=2, unique=True),
    names, st.sampled_from(["", "Europe/London"]), st.lists(names.filter(bool), max_size=3),
    birthday=st.dates(date(1900, 1, 1)).map(str) | st.just(""), note=names,
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
        assert [one.value for one in other.contents.get("bday", [])] == [card.birthday.replace("-", "")] * bool(
            card.birthday
        )


def test_cards_of_older_versions_are_read() -> None:
    text = (
        "BEGIN:VCARD\r\nVERSION:2.1\r\nN;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:N=C3=BA=C3=B1ez;Zo=C3=\r\n=AB\r\n"
        "BDAY:--0412\r\nNOTE:rang twice\r\nTEL;HOME:01632 960001\r\nTEL;CELL;PREF:07700 900123\r\nEMAIL;INTERNET:zoe@example.com\r\nEND:VCARD\r\n"
        "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Bo Marsh\r\nitem1.EMAIL;TYPE=INTERNET:bo@exam\r\n ple.com\r\nADR;TYPE=HOME:;;1 Quay\\, Left;Tern;;TN1;\r\nEND:VCARD\r\n"
    )  # fmt: skip
    zoe, bo = vcard.read(text)
    assert (zoe.first_name, zoe.last_name, zoe.mobiles) == ("Zoë", "Núñez", ["07700 900123", "01632 960001"])
    assert (zoe.birthday, zoe.note) == ("12/4", "rang twice")
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
