"""What the server says and what the page says are written alike: both are held to tests/words.json (here, and in
web/tests/words.test.ts)."""

import json
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core import words

EXAMPLES = json.loads(Path(__file__).parents[1].joinpath("words.json").read_text())


def instant(local: str) -> datetime:
    return datetime.fromisoformat(local).replace(tzinfo=UTC)


SAYS = {
    "number": words.number,
    "many": words.counted,
    "money": words.money,
    "several": words.several,
    "moment": lambda at, now: words.moment(instant(at), "UTC", instant(now)),
}


@pytest.mark.parametrize("example", EXAMPLES, ids=lambda one: one["is"] or "nothing")
def test_the_server_writes_as_the_table_of_examples_says(example: dict[str, Any]) -> None:
    assert SAYS[example["says"]](*example["given"]) == example["is"]


@given(
    st.datetimes(datetime(1990, 1, 1), datetime(2090, 1, 1)), st.datetimes(datetime(1990, 1, 1), datetime(2090, 1, 1))
)
def test_a_moment_says_its_year_just_where_it_is_another(at: datetime, now: datetime) -> None:
    said = words.moment(at.replace(tzinfo=UTC), "UTC", now.replace(tzinfo=UTC))
    assert (str(at.year) in said) == (at.year != now.year)
    assert said.endswith(f"{at:%H:%M}") and f"{at:%a} {at.day} {at:%b}" in said
