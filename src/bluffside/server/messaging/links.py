"""Signed addresses in messages: links that count clicks, and leaving the list.

    /l/<account>.<message>.<number>.<signature>     a link; leads on for good, and is counted for a year
    /u/<account>.<contact>.<signature>              leaving the list; never runs out, since a working way out is owed
                                                    for 30 days at least (15 U.S.C. 7704(a)(3)(A)(ii)), and by decency
                                                    for as long as somebody finds the message
    /r/<account>.<message>.<signature>              a letter, read in the web

A contact's own page has one, too (people/signed.py, which says how they are signed).
"""

import re
from collections.abc import Mapping
from datetime import timedelta

from django.conf import settings

from bluffside.server.people import signed

URL = re.compile(r"https?://[^\s<>\"']+[^\s<>\"'.,;:!?)]")
OWN_PAGES = tuple(f"{settings.ADDRESS}/{page}/" for page in "pucar")
COUNTED_FOR = timedelta(days=365)
# What link checkers, previews and programs call themselves; people's browsers do not.
_ROBOTS = re.compile(
    r"bot\b|bot/|crawl|spider|preview|scan|check|fetch|monitor|curl|wget|python|java/|go-http|okhttp|axios|headless|"
    r"libwww|http-client|httpclient|node|ruby|perl",
    re.IGNORECASE,
)


def link_token(account_id: int, message_id: int, number: int) -> str:
    return signed.sign("l", f"{signed.short(account_id)}.{signed.short(message_id)}.{number}")


def web_token(account_id: int, message_id: int) -> str:
    return signed.sign("r", f"{signed.short(account_id)}.{signed.short(message_id)}")


def read_web(token: str) -> tuple[int, int]:
    """The ids of account and message. Raises BadToken."""
    account, message = signed.read("r", token, 2)
    return account, message


def unsubscribe_token(account_id: int, contact_id: int) -> str:
    return signed.sign("u", f"{signed.short(account_id)}.{signed.short(contact_id)}")


def read_link(token: str) -> tuple[int, int, int]:
    """The ids of account and message, and the link's number. Raises BadToken."""
    account, message, number = signed.read("l", token, 3)
    return account, message, number


def read_unsubscribe(token: str) -> tuple[int, int]:
    """The ids of account and contact. Raises BadToken."""
    account, contact = signed.read("u", token, 2)
    return account, contact


def counted(body: str, account_id: int, message_id: int) -> tuple[str, list[str]]:
    """The words with a counted link in the place of every address, and the addresses by number."""
    if "://" not in body:
        return body, []
    urls: list[str] = []

    def replace(found: re.Match[str]) -> str:
        if found[0].startswith(OWN_PAGES):  # a contact's own page is no link to count
            return found[0]
        urls.append(found[0])
        return f"{settings.ADDRESS}/l/{link_token(account_id, message_id, len(urls))}"

    return URL.sub(replace, body), urls


def is_robot(method: str, headers: Mapping[str, str]) -> bool:
    """Whether a link was obviously looked at by a program: it says so, fetches ahead, or asks for no page."""
    agent = headers.get("User-Agent", "")
    ahead = headers.get("Sec-Purpose", "") + headers.get("Purpose", "") + headers.get("X-Moz", "")
    return method != "GET" or not agent or "prefetch" in ahead.lower() or bool(_ROBOTS.search(agent))
