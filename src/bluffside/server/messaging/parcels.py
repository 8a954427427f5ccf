"""A message made ready to be handed over: links that count clicks, the footer of an email, its HTML part."""

import re
import secrets
from collections.abc import Iterable

from django.conf import settings
from django.core import signing
from django.utils.html import escape

from bluffside.server.messaging.carrier import Parcel
from bluffside.server.messaging.models import Link, Message

URL = re.compile(r"https?://[^\s<>\"']+[^\s<>\"'.,;:!?)]")
_unsubscribe = signing.Signer(salt="unsubscribe")


def make_links(messages: Iterable[Message]) -> None:
    """Puts a counted link in the place of every address written in a message, before it is stored."""
    for message in messages:
        made: list[Link] = []

        def counted(found: re.Match[str], message: Message = message, made: list[Link] = made) -> str:
            made.append(Link(message=message, code=secrets.token_urlsafe(6), url=found[0]))
            return f"{settings.ADDRESS}/l/{made[-1].code}"

        message.body = URL.sub(counted, message.body)
        message.new_links = made  # type: ignore[attr-defined]


def unsubscribe_token(contact_id: int) -> str:
    return _unsubscribe.sign(str(contact_id))


def contact_of_token(token: str) -> int:
    """Raises signing.BadSignature."""
    return int(_unsubscribe.unsign(token))


def parcel(message: Message) -> Parcel:
    account = message.account
    if message.channel == "text":
        return Parcel(message.key, "text", account.text_number, account.name, message.address, "", message.body, "")
    link = f"{settings.ADDRESS}/u/{unsubscribe_token(message.contact_id)}"
    footer = f"{account.name}, {account.postal_address}"
    text = f"{message.body}\n\n--\n{footer}\nNo more emails: {link}\n"
    return Parcel(
        message.key,
        "email",
        account.sender_email,
        account.sender_name,
        message.address,
        message.subject,
        text,
        _html(message.body, footer, link),
        # RFC 2369 and RFC 8058: the mail program's own button.
        (("List-Unsubscribe", f"<{link}>"), ("List-Unsubscribe-Post", "List-Unsubscribe=One-Click")),
    )


def _html(body: str, footer: str, link: str) -> str:
    """Paragraphs and links of a plain body; everything in it is escaped."""
    paragraphs = []
    for block in re.split(r"\n\s*\n", body.strip()):
        words = URL.sub(lambda found: f'<a href="{found[0]}">{found[0]}</a>', str(escape(block)))
        paragraphs.append(f"<p>{words.replace(chr(10), '<br>')}</p>")
    small = f'<p><small>{escape(footer)}<br><a href="{link}">No more emails</a></small></p>'
    return "".join(paragraphs) + "<hr>" + small
