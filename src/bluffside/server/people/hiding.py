"""What who may not see addresses reads instead: nothing where an address stands, a sign where one stands in words."""

import re
from typing import Any

import phonenumbers

HIDDEN = "(not shown)"
# Fields that are an address and nothing else; all other words are looked through.
ADDRESSES = {"email", "mobile", "phone", "number", "address", "to", "from_address", "text_number"}
_EMAIL = re.compile(r"[\w.+%-]+@[\w-]+(?:\.[\w-]+)+")
_DAY = re.compile(r"\d{4}-\d\d-\d\d")
_MANY_DIGITS = re.compile(r"(?:\d[\s().+/-]{0,2}){8}")


def without_addresses(data: Any, region: str, key: str = "") -> Any:
    """`data` is what is about to be written as JSON; `region`: of the country whose way of writing numbers is assumed."""
    if isinstance(data, dict):
        return {name: without_addresses(value, region, str(name)) for name, value in data.items()}
    if isinstance(data, list | tuple):
        return [without_addresses(one, region, key) for one in data]
    if not isinstance(data, str):
        return data
    if key in ADDRESSES and (_EMAIL.search(data) or _MANY_DIGITS.search(data)):
        return ""
    return _without_numbers(_EMAIL.sub(HIDDEN, data), region)


def _is_a_number(text: str) -> bool:
    """And no date or amount, which are possible numbers somewhere."""
    if _DAY.match(text):
        return False
    return text.startswith(("+", "0", "(")) or sum(map(str.isdigit, text)) >= 10


def _without_numbers(text: str, region: str) -> str:
    if not _MANY_DIGITS.search(text):
        return text
    found = phonenumbers.PhoneNumberMatcher(text, region, leniency=phonenumbers.Leniency.POSSIBLE)
    for match in reversed([one for one in found if _is_a_number(one.raw_string)]):
        text = text[: match.start] + HIDDEN + text[match.end :]
    return text
