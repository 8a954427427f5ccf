"""Files of people, cell by cell: what cannot be read costs itself alone, what fits no field becomes one, and nobody is taken
for somebody else."""

from typing import Any

import pytest

from bluffside.server.people import imports, quick
from bluffside.server.people.import_columns import SharedNumber
from bluffside.server.people.import_rows import split_name
from bluffside.server.people.models import Contact, Field
from bluffside.server.people.services import BadContact, add_contact
from tests.server.bringing import begin, finish
from tests.server.conftest import House

# First and last names, as their bearers would put them: titles, particles, two surnames, the last name first.
NAMES = {
    "Dr Ana Reyes": ("Ana", "Reyes"),
    "Mrs Quill": ("", "Quill"),
    "Reyes García, Ana María": ("Ana María", "Reyes García"),
    "Ana García López": ("Ana", "García López"),
    "Mr. J. van der Berg": ("J.", "van der Berg"),
    "Prof. Dr. Hanna Müller-Lind": ("Hanna", "Müller-Lind"),
    "Jo Smith PhD": ("Jo", "Smith PhD"),
    "Zoë": ("Zoë", ""),
    "Dr": ("Dr", ""),
}


@pytest.mark.parametrize("text", NAMES)
def test_names_are_parted_as_their_bearers_would(text: str) -> None:
    assert split_name(text) == NAMES[text]


def test_columns_that_fit_no_field_become_fields_of_the_kind_that_fits_them(house: House) -> None:
    rows = [f"P{n},p{n}@example.com,{n * 7},1{n}/04/1990,,Gaff {n}" for n in range(1, 9)]
    imported = begin(house, "\n".join(["Name,Email,Points,Born on,Empty,Boat", *rows]).encode())
    finish(imported)
    kinds = dict(Field.objects.filter(account=house.sailing).values_list("name", "kind"))
    assert kinds == {"Points": "number", "Born on": "date", "Boat": "text"}
    assert Contact.objects.get(email="p3@example.com").fields == {
        "Points": 21,
        "Born on": "1990-04-13",
        "Boat": "Gaff 3",
    }


def test_one_unreadable_cell_is_told_and_the_row_comes_in_without_it(house: House) -> None:
    text = "Name,Email,Phone,Joined\nAna,ana@example.com,#N/A,3/4/2020\nBo,not-one,07700 900124,31/02/2020\nCy,no,no,1/1/2020\n"
    imported = imports.read_file(house.sailing, house.consultant, "people.csv", text.encode())
    mapping = {"0": "full_name", "1": "email", "2": "mobile", "3": "new:date:Joined"}
    imports.start(imported, imports.Settings(**(imported.settings | {"mapping": mapping})))
    finish(imported)
    assert (imported.added, imported.partly, imported.failed) == (2, 2, 1)
    assert [(one.row, one.taken) for one in imported.faults.order_by("row")] == [(2, True), (3, True), (4, False)]
    assert "#N/A" in imported.faults.get(row=2).reason
    assert "“not-one” is not an email address" in imported.faults.get(row=3).reason
    ana, bo = Contact.objects.get(first_name="Ana"), Contact.objects.get(first_name="Bo")
    assert (ana.mobile, ana.fields, bo.email, bo.fields) == ("", {"Joined": "2020-04-03"}, "", {})


@pytest.mark.parametrize(("who", "came"), [("leave", (0, 0, 1)), ("apart", (1, 0, 0)), ("same", (0, 1, 0))])
def test_who_has_the_number_of_another_is_asked_about(
    house: House, who: SharedNumber, came: tuple[int, int, int]
) -> None:
    """A name and an email of one's own: two of a household, and never folded into one."""
    bo = add_contact(house.sailing, {"first_name": "Bo", "email": "bo@example.com", "mobile": "+447700900124"})
    data = b"Name,Email,Mobile,Boat\nAna Marsh,ana@example.com,07700 900124,Gull\n"
    imported = imports.read_file(house.sailing, house.consultant, "people.csv", data)
    settings = imports.Settings(**(imported.settings | {"shared_number": who}))
    seen = imports.look(imported, settings)[0]
    assert (seen.becomes == "fault") == (who == "leave")
    imports.start(imported, settings)
    finish(imported)
    assert (imported.added, imported.changed, imported.failed) == came
    bo.refresh_from_db()
    assert (bo.first_name, bo.email, bo.mobile) == ("Bo", "bo@example.com", "+447700900124")
    if who == "apart":
        assert Contact.objects.get(email="ana@example.com").mobile == ""
    if who == "leave":
        assert imported.faults.get().reason == "Bo has that mobile number, and another name and email"


def test_headings_are_taken_from_the_row_somebody_points_at(house: House, api: Any) -> None:
    text = "Members of the club,,\nas of May,,\nName,Email,Mobile\nAna,ana@example.com,\nBo,,07700 900124\n"
    imported = imports.read_file(house.sailing, house.consultant, "people.csv", text.encode())
    assert imported.columns[0] == "Members of the club"
    at = f"imports/{imported.id}/headings"
    assert api("POST", at, {"row": 99})[0] == 422
    status, now = api("POST", at, {"row": 3})
    assert (status, now["columns"], now["row_count"], now["first_row"]) == (200, ["Name", "Email", "Mobile"], 2, 4)
    imported.refresh_from_db()
    imports.start(imported, imports.Settings(**imported.settings))
    finish(imported)
    assert (imported.added, imported.failed) == (2, 0)
    assert api("POST", at, {"row": 4})[0] == 422  # it was started


def test_consent_is_stated_in_quick_entry_with_how_one_knows(house: House, api: Any) -> None:
    line = {"first_name": "Ana", "email": "ana@example.com", "agreed": ["email"], "evidence": ""}
    assert api("POST", "quick", [line])[1][0]["fault"] == "say how they agreed to hear from you"
    assert not Contact.objects.exists()
    api("POST", "quick", [line | {"evidence": "signed the sheet"}])
    consents = Contact.objects.get().consents.values_list("channel", "purpose", "state", "evidence", "how")
    assert set(consents) == {
        ("email", purpose, "given", "signed the sheet", "quick entry") for purpose in ("marketing", "service")
    }
    with pytest.raises(BadContact):
        quick.add(house.sailing, quick.Line(email="bo@example.com", agreed=["text"]), quick.Cause())


def test_a_landline_comes_in_and_is_told_to_be_one(house: House) -> None:
    """020 7946 0000 to 0999 are set aside for fiction (Ofcom)."""
    imported = begin(house, b"Name,Mobile\nAna,020 7946 0123\nBo,07700 900124\n")
    finish(imported)
    assert (imported.added, imported.partly, imported.failed) == (2, 1, 0)
    said = "020 7946 0123 is a landline: it can be rung, and no text reaches it"
    assert [(one.row, one.reason) for one in imported.faults.all()] == [(2, said)]
    assert quick.understand(house.sailing, "Cy Fell 020 7946 0124").told.startswith("020 7946 0124 is a landline")
    assert quick.understand(house.sailing, "Cy Fell 07700 900125").told == ""
