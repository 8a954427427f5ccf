"""Signed addresses in messages: links that count clicks, and leaving the list.

    /l/<account>.<message>.<number>.<signature>     a link; leads on for good, and is counted for a year
    /u/<account>.<contact>.<signature>              leaving the list; never runs out, since a working way out is owed
                                                    for 30 days at least (15 U.S.C. 7704(a)(3)(A)(ii)), and by decency
                                                    for as long as somebody finds the message

The signature is the first 48 bits of HMAC-SHA256: a guess succeeds once in 2^48 tries, and short addresses matter in
a text of 160 letters. The account is part of what is signed, so that a page knows whose wall to enter.
"""

import hmac
import re
from base64 import urlsafe_b64encode
from collections.abc import Mapping
from datetime import timedelta

from django.conf import settings

URL = re.compile(r"https?://[^\s<>\"']+[^\s<>\"'.,;:!?)]")
COUNTED_FOR = timedelta(days=365)
# What link checkers, previews and programs call themselves; people's browsers do not.
_ROBOTS = re.compile(
    r"bot\b|bot/|crawl|spider|preview|scan|check|fetch|monitor|curl|wget|python|java/|go-http|okhttp|axios|headless|"
    r"libwww|http-client|httpclient|node|ruby|perl",
    re.IGNORECASE,
)
_DIGITS = "0123456789abcdefghijklmnopqrstuvwxyz"


class BadToken(ValueError):
    """It was not made here, or was changed on the way."""


def link_token(account_id: int, message_id: int, number: int) -> str:
    return _signed("l", f"{_short(account_id)}.{_short(message_id)}.{number}")


def unsubscribe_token(account_id: int, contact_id: int) -> str:
    return _signed("u", f"{_short(account_id)}.{_short(contact_id)}")


def read_link(token: str) -> tuple[int, int, int]:
    """The ids of account and message, and the link's number. Raises BadToken."""
    account, message, number = _read("l", token, 3)
    return account, message, number


def read_unsubscribe(token: str) -> tuple[int, int]:
    """The ids of account and contact. Raises BadToken."""
    account, contact = _read("u", token, 2)
    return account, contact


def counted(body: str, account_id: int, message_id: int) -> tuple[str, list[str]]:
    """The words with a counted link in the place of every address, and the addresses by number."""
    if "://" not in body:
        return body, []
    urls: list[str] = []

    def replace(found: re.Match[str]) -> str:
        urls.append(found[0])
        return f"{settings.ADDRESS}/l/{link_token(account_id, message_id, len(urls))}"

    return URL.sub(replace, body), urls


def is_robot(method: str, headers: Mapping[str, str]) -> bool:
    """Whether a link was obviously looked at by a program: it says so, fetches ahead, or asks for no page."""
    agent = headers.get("User-Agent", "")
    ahead = headers.get("Sec-Purpose", "") + headers.get("Purpose", "") + headers.get("X-Moz", "")
    return method != "GET" or not agent or "prefetch" in ahead.lower() or bool(_ROBOTS.search(agent))


def _signed(purpose: str, text: str) -> str:
    return f"{text}.{_signature(purpose, text)}"


def _signature(purpose: str, text: str) -> str:
    digest = hmac.digest(settings.SECRET_KEY.encode(), f"bluffside:{purpose}:{text}".encode(), "sha256")
    return urlsafe_b64encode(digest[:6]).decode()


def _read(purpose: str, token: str, parts: int) -> list[int]:
    text, _, signature = token.rpartition(".")
    if not hmac.compare_digest(signature.encode(), _signature(purpose, text).encode()):
        raise BadToken(token)
    found = text.split(".")
    if len(found) != parts:
        raise BadToken(token)
    return [int(part, 36) if place < 2 else int(part) for place, part in enumerate(found)]


def _short(number: int) -> str:
    digits = ""
    while number:
        number, digit = divmod(number, 36)
        digits = _DIGITS[digit] + digits
    return digits or "0"
