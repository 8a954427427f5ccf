"""Signed addresses: short tokens in messages that open a page for one contact, or lead somewhere, without signing in.

    /p/<account>.<contact>.<signature>    what the contact wants to hear, and how; never runs out
    /c/<account>.<answer>.<way>.<signature>    what somebody agreed to on a form, to confirm it (capture/confirming.py)
    /a/<account>.<appointment>.<signature>     an appointment, to confirm, move or cancel it (appointments/own_page.py)
    /l/ and /u/                           see messaging/links.py

`keyed` is what every signature and digest of the application is made by; each purpose has a name of its own, so that
one made for the one is worth nothing for another.

The signature is the first 48 bits of HMAC-SHA256: a guess succeeds once in 2^48 tries, and short addresses matter in
a text of 160 letters. The account is part of what is signed, so that a page knows whose wall to enter.
"""

import hmac
import re
from base64 import urlsafe_b64encode
from collections.abc import Callable, Iterator

from django.conf import settings

_OWN_PAGE = re.compile(r"(/[pca]/)[0-9a-z]+\.[0-9a-z.]+\.[\w-]{8}")
_DIGITS = "0123456789abcdefghijklmnopqrstuvwxyz"


class BadToken(ValueError):
    """It was not made here, or was changed on the way."""


def sign(purpose: str, text: str) -> str:
    return f"{text}.{_signature(purpose, text)}"


def read(purpose: str, token: str, parts: int) -> list[int]:
    """The numbers in a token; the first two are written short. Raises BadToken."""
    text, _, signature = token.rpartition(".")
    if not fits(signature, purpose, text, _written):
        raise BadToken(token)
    found = text.split(".")
    if len(found) != parts:
        raise BadToken(token)
    return [int(part, 36) if place < 2 else int(part) for place, part in enumerate(found)]


def short(number: int) -> str:
    digits = ""
    while number:
        number, digit = divmod(number, 36)
        digits = _DIGITS[digit] + digits
    return digits or "0"


def keyed(purpose: str, text: str) -> bytes:
    """HMAC-SHA256 under the installation's secret: 32 bytes that nobody without it can make or try out."""
    return _digest(settings.SECRET_KEY, purpose, text)


def keyed_by_each(purpose: str, text: str) -> Iterator[bytes]:
    """The same under each of the installation's secrets, the newest first: what was made before a secret was changed is
    found and believed by the older ones."""
    for secret in (settings.SECRET_KEY, *settings.SECRET_KEY_FALLBACKS):
        yield _digest(secret, purpose, text)


def _digest(secret: str, purpose: str, text: str) -> bytes:
    return hmac.digest(secret.encode(), f"bluffside:{purpose}:{text}".encode(), "sha256")


def fits(given: str, purpose: str, text: str, written: Callable[[bytes], str]) -> bool:
    """Whether what is given was made here from a text, as `written`."""
    made = [written(one).encode() for one in keyed_by_each(purpose, text)]
    return any(hmac.compare_digest(given.encode(), one) for one in made)


def _written(signature: bytes) -> str:
    return urlsafe_b64encode(signature[:6]).decode()


def _signature(purpose: str, text: str) -> str:
    return _written(keyed(purpose, text))


def preferences_link(account_id: int, contact_id: int) -> str:
    return f"{settings.ADDRESS}/p/{sign('p', f'{short(account_id)}.{short(contact_id)}')}"


def some_preferences_link(account_id: int) -> str:
    """One as long as they usually are, which opens nothing: for people who are made up, and for counting."""
    return f"{settings.ADDRESS}/p/{short(account_id)}.xxxx.xxxxxxxx"


def appointment_link(account_id: int, appointment_id: int) -> str:
    return f"{settings.ADDRESS}/a/{sign('a', f'{short(account_id)}.{short(appointment_id)}')}"


def some_appointment_link(account_id: int) -> str:
    """Like some_preferences_link."""
    return f"{settings.ADDRESS}/a/{short(account_id)}.xxxx.xxxxxxxx"


def read_appointment(token: str) -> tuple[int, int]:
    """The ids of account and appointment. Raises BadToken."""
    account, appointment = read("a", token, 2)
    return account, appointment


def without_own_pages(text: str) -> str:
    """A text, with no token left in it that opens somebody's own page."""
    return _OWN_PAGE.sub(r"\1…", text)


def read_preferences(token: str) -> tuple[int, int]:
    """The ids of account and contact. Raises BadToken."""
    account, contact = read("p", token, 2)
    return account, contact
