"""Phone numbers, emails and zones as they are kept, and what is wrong with them in words."""

import re
from urllib.parse import urlsplit

import phonenumbers

from bluffside.core.email_addresses import normalised
from bluffside.core.timing.local import zone_of

# Ofcom sets these aside for drama; phonenumbers calls them invalid, but demos and trainings need them.
_UK_FICTION = re.compile(r"^\+447700900\d{3}$")
_NUMBER = re.compile(r"\s*\+?[\d\s()./-]+")


def mobile(text: str, region: str) -> str:
    """A number as E.164. `region` is the country whose national numbers are meant. Raises ValueError."""
    text = text.strip().removeprefix("'")
    if not text:
        return ""
    try:
        number = phonenumbers.parse(text, region)
    except phonenumbers.NumberParseException:
        raise ValueError(f"“{text}” is not a phone number") from None
    written = phonenumbers.format_number(number, phonenumbers.PhoneNumberFormat.E164)
    if not phonenumbers.is_valid_number(number) and not _UK_FICTION.match(written):
        raise ValueError(f"“{text}” is not a number anybody can have")
    return written


def sought_digits(text: str) -> str:
    """The digits to look for in E.164 numbers when somebody has typed a number, or part of one, in whatever way: with
    spaces, 00 or +, or a (0) that is left out abroad. Empty when it is not a number."""
    if not _NUMBER.fullmatch(text):
        return ""
    digits = re.sub(r"\D", "", text.replace("(0)", ""))
    digits = digits.removeprefix("00") if digits.startswith("00") else digits.removeprefix("0")
    return digits if len(digits) >= 3 else ""


def beginnings(text: str, region: str) -> list[str]:
    """What E.164 numbers begin with when somebody has typed the beginning of one; none when it is not a number."""
    digits = sought_digits(text)
    if not digits:
        return []
    country = f"+{phonenumbers.country_code_for_region(region)}{digits}"
    return [f"+{digits}"] if text.lstrip().startswith(("+", "00")) else [country, f"+{digits}"]


def email(text: str) -> str:
    """An address in lower case, its domain normalised. Raises ValueError. No server is asked."""
    text = text.strip().removeprefix("'")
    return normalised(text) if text else ""


def link(text: str) -> str:
    """A web address, https where it says nothing. Raises ValueError."""
    text = text.strip()
    if not text:
        return ""
    whole = text if "://" in text else f"https://{text}"
    try:
        parts = urlsplit(whole)
    except ValueError:
        raise ValueError(f"“{text}” is not a web address") from None
    if parts.scheme not in ("http", "https") or "." not in (parts.hostname or "") or " " in whole or len(whole) > 2_000:
        raise ValueError(f"“{text}” is not a web address")
    return whole


def zone(text: str) -> str:
    text = text.strip()
    if text:
        zone_of(text)
    return text
