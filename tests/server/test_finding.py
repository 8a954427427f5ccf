"""Finding anything of an account by its name: what is found, who finds it, and that an index is asked, not a million rows."""

import re
from typing import Any

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from hypothesis import given
from hypothesis import strategies as st

from bluffside.server.capture import forms
from bluffside.server.people import addresses
from bluffside.server.people.finding import contacts
from bluffside.server.people.queries import search
from bluffside.server.people.services import add_contact
from bluffside.server.practice.finding import find
from tests.server.conftest import House

# As people write one number: nationally, with brackets, from abroad, with the 0 that is left out there (E.123 of the ITU).
WAYS = ("07700 900123", "+44 7700 900123", "0044 7700 900123", "+44 (0)7700-900123", "(07700) 900.123", "7700900123")


def kinds(house: House, text: str) -> list[tuple[str, str]]:
    return [(one.kind, one.name) for one in find(house.sailing, text)]


def test_each_sort_of_thing_is_found_by_any_beginning_of_its_words(house: House, api: Any) -> None:
    add_contact(house.sailing, {"first_name": "Óscar", "last_name": "Open-Water", "email": "o.w@example.com"})
    house.workflow(name="After the open day")
    forms.make(house.sailing, "Open day")
    api("POST", "segments", {"name": "Open to a course", "condition": {"test": "tag", "tag": "open day"}})
    api("POST", "lead-sources", {"name": "Opening advert"})
    assert [kind for kind, _ in kinds(house, "open")] == ["contact", "segment", "workflow", "form", "source"]
    assert kinds(house, "DAY open") == [("workflow", "After the open day"), ("form", "Open day")]
    assert kinds(house, "open-water ósc") == kinds(house, "o.w@ex") == [("contact", "Óscar Open-Water")]
    assert kinds(house, "scar") == kinds(house, " ") == []  # people by beginnings, and nothing for nothing


@pytest.mark.parametrize("typed", WAYS)
def test_a_number_is_found_however_it_is_typed(house: House, typed: str) -> None:
    ada = add_contact(house.sailing, {"first_name": "Ada", "mobile": "+447700900123"})
    add_contact(house.sailing, {"first_name": "Bo", "mobile": "+447700900124"})
    assert [one.id for one in find(house.sailing, typed)] == [ada.id]
    assert [one.id for one in find(house.sailing, typed[:9])][:1] == [ada.id]  # while it is being typed
    assert list(search(house.sailing, typed)) == [ada]


@given(st.text("0123456789 ()+-./", max_size=20))
def test_whatever_is_typed_as_a_number_only_digits_are_looked_for(typed: str) -> None:
    for one in addresses.beginnings(typed, "GB"):
        assert one.startswith("+") and one[1:].isdigit()


def test_nothing_of_another_account_is_found(house: House, signed_in: Any) -> None:
    add_contact(house.sailing, {"first_name": "Ada", "last_name": "Moss"})
    assert find(house.pottery, "ada") == []
    answer = signed_in(house.consultant).get("/api/accounts/sailing/find", {"q": "mos"})
    assert [one["name"] for one in answer.json()] == ["Ada Moss"]
    assert signed_in(house.consultant).get("/api/accounts/sailing/find", {"q": "x" * 81}).status_code == 422


def test_only_what_an_index_answers_behind_the_walls_is_asked(house: House) -> None:
    """Before the wall's own condition PostgreSQL asks an index by functions alone that leak nothing (manual of version 15,
    41.5): for LIKE or lower() it would read an account of a million row by row. `bench people` measures it."""
    with CaptureQueriesContext(connection) as asked:
        list(contacts(house.sailing, ["ada", "mo"]))
    statements = [one["sql"].partition(" WHERE ")[2] for one in asked if "people_contact" in one["sql"]]
    assert len(statements) == 3
    for statement in statements:
        assert not re.search(r"LIKE|LOWER|UPPER|POSITION|~", statement, re.I), statement
        assert {" >= ", " < "} <= set(re.findall(r" (?:>=|<) ", statement))
    comparing = "oprname IN ('>=', '<') AND oprleft = 'text'::regtype AND oprright = 'text'::regtype"
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT bool_and(proleakproof) FROM pg_proc JOIN pg_operator o ON oprcode = pg_proc.oid WHERE {comparing}"
        )
        assert cursor.fetchone() == (True,)
