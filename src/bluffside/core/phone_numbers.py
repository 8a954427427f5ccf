"""Telephone numbers as people of a country write them (ITU-T E.123), by the metadata that phonenumbers ships."""

from collections.abc import Mapping
from functools import lru_cache

import phonenumbers

# Set aside for fiction: by Ofcom, the North American Numbering Plan (555-0100 to 0199), and the ACMA.
_FICTION = {"GB": "+447700900123", "US": "+12125550123", "CA": "+16135550123", "AU": "+61491570156"}


def example_mobile(region: str) -> str:
    """A number of a country that nobody has, in E.164; empty where none is set aside."""
    return _FICTION.get(region, "")


@lru_cache(10_000)
def is_landline(number: str) -> bool:
    """Whether an E.164 number is certainly no mobile one: it can be rung, and no text reaches it. In countries where both look
    alike (North America), none is."""
    try:
        return bool(phonenumbers.number_type(phonenumbers.parse(number)) == phonenumbers.PhoneNumberType.FIXED_LINE)
    except phonenumbers.NumberParseException:
        return False


def landline(number: str, region: str) -> str:
    """What to say of a number that is one; empty for any other."""
    return (
        f"{as_written(number, region)} is a landline: it can be rung, and no text reaches it"
        if is_landline(number)
        else ""
    )


@lru_cache(10_000)
def as_written(number: str, region: str = "") -> str:
    """An E.164 number as people of a country write it: their own as at home (ITU-T E.123), all others with +. Any other words
    stay as they are."""
    try:
        parsed = phonenumbers.parse(number)
    except phonenumbers.NumberParseException:
        return number
    at_home = region and parsed.country_code == phonenumbers.country_code_for_region(region)
    how = phonenumbers.PhoneNumberFormat.NATIONAL if at_home else phonenumbers.PhoneNumberFormat.INTERNATIONAL
    return str(phonenumbers.format_number(parsed, how))


def values_as_written(values: Mapping[str, str], region: str) -> dict[str, str]:
    """What a decision saw, by its name, with the number it went to as people of the country write it."""
    return {name: as_written(value, region) if name == "to" else value for name, value in values.items()}
