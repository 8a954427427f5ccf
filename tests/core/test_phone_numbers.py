"""Numbers as the account's country writes them; the values are those of ITU-T E.123 and of the national plans, and the numbers are
all set aside for fiction (Ofcom; NANP 555-0100 to 0199; ACMA)."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.phone_numbers import as_written, example_mobile, is_landline


@pytest.mark.parametrize(
    ("number", "region", "written"),
    [
        ("+447700900123", "GB", "07700 900123"),
        ("+447700900123", "US", "+44 7700 900123"),
        ("+447700900123", "", "+44 7700 900123"),
        ("+12125550123", "US", "(212) 555-0123"),
        ("+12125550123", "CA", "(212) 555-0123"),  # one plan, one country code
        ("+12125550123", "GB", "+1 212-555-0123"),
        ("+61491570156", "AU", "0491 570 156"),
        ("", "GB", ""),
        ("no number", "GB", "no number"),
    ],
)
def test_a_number_is_written_as_at_home_by_its_own_country_and_with_plus_by_others(
    number: str, region: str, written: str
) -> None:
    assert as_written(number, region) == written


@pytest.mark.parametrize("region", ["GB", "US", "CA", "AU"])
def test_the_example_of_a_country_is_nobodys_and_no_landline(region: str) -> None:
    assert example_mobile(region) and not is_landline(example_mobile(region))
    assert not as_written(example_mobile(region), region).startswith("+")


@given(st.integers(0, 999), st.sampled_from(["GB", "US", "AU", "DE", ""]))
def test_no_digit_of_a_number_is_lost_in_writing(tail: int, region: str) -> None:
    digits = "".join(letter for letter in as_written(f"+447700900{tail:03}", region) if letter.isdigit())
    assert digits == (f"07700900{tail:03}" if region == "GB" else f"447700900{tail:03}")


def test_landlines_are_known_where_they_can_be() -> None:
    assert is_landline("+442079460123")
    assert not is_landline("+12125550123") and not is_landline("") and not is_landline("call me")
