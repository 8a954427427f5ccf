"""Work is bounded: what a small file, body or mail could make large is refused in words, or read in the time it takes."""

import io
from typing import Any

import pytest
import xlsxwriter
from django.db import connection, transaction

from bluffside.core.facts import Facts
from bluffside.core.messages.merge import BadTemplate, render
from bluffside.server.messaging import inbound
from bluffside.server.people.imports import read_file
from bluffside.server.people.reading_apart import TOO_MUCH, read_apart
from bluffside.server.people.spreadsheet import BadSpreadsheet
from tests.server.conftest import House


def workbook(cells: dict[tuple[int, int], str]) -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out)
    sheet = book.add_worksheet()
    for (row, column), value in cells.items():
        sheet.write(row, column, value)
    book.close()
    return out.getvalue()


def test_a_workbook_whose_last_cell_is_far_out_does_not_take_the_process_along() -> None:
    """1,048,576 rows of 16,384 columns (ECMA-376): the reader would ask for 512 GB."""
    small = {(0, 0): "Email", (1, 0): "a@example.com"}
    assert read_apart(workbook(small)).rows == [["a@example.com"]]
    with pytest.raises(BadSpreadsheet) as error:
        read_apart(workbook(small | {(1_048_575, 16_383): "x"}))
    assert str(error.value) == TOO_MUCH or "rows; at most" in str(error.value)


@pytest.mark.parametrize("body", ["{{" * 2_000, "{%" * 2_000, "{{ contact.first_name | upcase }}" * 400])
def test_a_body_of_very_many_fields_is_refused_before_it_is_read(body: str) -> None:
    with pytest.raises(BadTemplate, match="more than 300 merge fields"):
        render(body, Facts())


@pytest.mark.parametrize(
    ("condition", "said"),
    [
        ({"test": "all", "of": [{"test": "tag", "tag": "x"}] * 5_000}, "at most 200"),
        ({"test": "any", "of": [{"test": "all", "of": [{"test": "tag", "tag": "x"}] * 100}] * 3}, "this has 300"),
    ],
)
def test_a_condition_of_very_many_tests_is_refused(api: Any, condition: Any, said: str) -> None:
    status, answer = api("POST", "contacts/find", {"who": {"where": condition}})
    assert status == 422 and said in answer["detail"]


def test_a_condition_that_stands_very_deep_is_refused(api: Any) -> None:
    condition: Any = {"test": "tag", "tag": "x"}
    for _ in range(12):
        condition = {"test": "all", "of": [condition]}
    status, answer = api("POST", "contacts/find", {"who": {"where": condition}})
    assert status == 422 and "at most 8 deep" in answer["detail"]


@pytest.mark.parametrize(
    ("html", "words"),
    [
        ("<p>Yes, <b>please</b></p><p>Ada</p>", ["Yes, please", "Ada"]),
        ("<script>" * 20_000 + "hello", []),
        ("<style>p { color: red }</style>Hi &amp; bye<script>alert(1)</script>", ["Hi & bye"]),
        ("<" * 100_000, ["<" * 100]),
        ("a<br>b<td>c</td>", ["a", "b", "c"]),
    ],
)
def test_the_words_of_a_mail_are_read_in_the_time_it_takes(html: str, words: list[str]) -> None:
    read = inbound._without_markup(html)
    assert all(one in read for one in words) and "alert" not in read and "color" not in read


def test_a_query_that_takes_too_long_is_given_up_in_words(
    api: Any, house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    def slow(*_: Any, **__: Any) -> None:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SET LOCAL statement_timeout = '20ms'")
            cursor.execute("SELECT pg_sleep(5)")

    monkeypatch.setattr("bluffside.server.workflows.attention_api.counts_of", slow)
    status, answer = api("GET", "aside")
    assert (status, answer["detail"]) == (503, "This would take too long, and was given up. Ask for less at once.")


def test_a_file_that_cannot_be_read_is_said_and_nothing_is_kept(house: House) -> None:
    with pytest.raises(BadSpreadsheet):
        read_file(house.sailing, house.consultant, "x.xlsx", b"PK\x03\x04 and no more")
    assert not house.sailing.imports.exists()
