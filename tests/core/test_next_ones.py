"""The next messages from one, by a list: swapped all at once, whatever stands in it, and told where a line of the list is wrong."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.messages.next_ones import MOST_NEXT, BadList, next_name, next_one, swaps_of
from bluffside.core.messages.replacing import replaced

CELL = st.text(st.characters(categories=["L", "N"]) | st.sampled_from(" .,:'()"), min_size=1, max_size=12).filter(
    lambda text: bool(text.strip()) and text == text.strip() and '"' not in text
)


@given(st.lists(CELL, min_size=1, max_size=4, unique_by=str.casefold), st.data(), st.sampled_from([";", "\t"]))
def test_each_line_of_a_list_is_a_message(found: list[str], data: st.DataObject, between: str) -> None:
    rows = data.draw(st.lists(st.lists(CELL, min_size=len(found), max_size=len(found)), min_size=1, max_size=5))
    text = "\n\n".join(between.join(row) for row in [found, *rows])
    assert swaps_of(text) == [dict(zip(found, row, strict=True)) for row in rows]


@given(st.lists(st.sampled_from(["one", "two", "three", "One", "{{ contact.one }}", " and "]), max_size=12))
def test_words_are_swapped_at_once_and_never_what_was_put_in(words: list[str]) -> None:
    """One becomes two, two becomes three: what was made a two stays one."""
    said = {
        "one": "two",
        "two": "three",
        "three": "three",
        "One": "Two",
        "{{ contact.one }}": "{{ contact.one }}",
        " and ": " and ",
    }
    assert replaced("|".join(words), {"one": "two", "two": "three"}) == "|".join(said[word] for word in words)


@pytest.mark.parametrize(("text", "why"), [
    ("week one", "first line"), ("a;A\nb;c", "Line 1"), (";b\nc;d", "Line 1"), ("a;b\nc", "Line 2"), ("a;b\nc;d\ne;", "Line 3"),
    ("a\n" + "b\n" * (MOST_NEXT + 1), "At most"),
])  # fmt: skip
def test_what_is_wrong_with_a_list_is_said_by_its_line(text: str, why: str) -> None:
    with pytest.raises(BadList, match=why):
        swaps_of(text)


def test_the_next_one_is_called_otherwise_and_says_what_it_does_not_say() -> None:
    swaps = {"week one": "week two", "April": "May"}
    assert next_name("Dates, week one", swaps) == "Dates, week two" and next_name("Dates", swaps) == "Dates, week two"
    made, texts, silent = next_one(
        {"subject": "Week one", "body": "See {{ account.April }}", "name": "Week one"}, swaps
    )
    assert made == {"subject": "Week two", "body": "See {{ account.April }}", "name": "Week one"}
    assert (list(texts), silent) == ([("Week one", "Week two")], ["April"])
