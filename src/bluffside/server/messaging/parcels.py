"""A message made ready to be handed over: its sender, what stands under it, an email's HTML part and headers."""

import re
from base64 import urlsafe_b64encode
from collections.abc import Mapping
from types import MappingProxyType

from django.conf import settings
from django.utils.html import escape

from bluffside.core.care.house import Care
from bluffside.core.messages.closing import closing, words_for
from bluffside.core.terms import Channel
from bluffside.server.messaging import heads
from bluffside.server.messaging.carrier import Parcel
from bluffside.server.messaging.domains import domain_of, signing_of
from bluffside.server.messaging.heads import Enclosed
from bluffside.server.messaging.letters import html_of, look_of, under, web_link
from bluffside.server.messaging.links import URL, unsubscribe_token
from bluffside.server.messaging.models import Message, Sender, SentLetter
from bluffside.server.people.queries import account_facts
from bluffside.server.people.signed import fits, keyed, preferences_link
from bluffside.server.practice.brand import Brand, brand_of
from bluffside.server.practice.models import Account

_KEY = re.compile(r"a(\d+)\.(.+)", re.DOTALL)
_MESSAGE_ID = re.compile(r"<?m\.(\d+)\.(\d+)\.([\w-]+)@")


def carrier_key(account_id: int, key: str) -> str:
    """What carriers know a message by. It carries the account, so that what they report finds its wall."""
    return f"a{account_id}.{key}"


def read_key(carrier_key: str) -> tuple[int, str] | None:
    """The account's id and the message's key; None when it is no key of ours."""
    found = _KEY.fullmatch(carrier_key)
    return (int(found[1]), found[2]) if found else None


def message_id(message: Message, domain: str) -> str:
    """The Message-ID (RFC 5322, 3.6.4): by it a reply or a bounce finds its message, and nobody can make one up."""
    text = f"{message.account_id}.{message.pk}"
    return f"<m.{text}.{_written(keyed('message-id', text))}@{domain}>"


def read_message_id(text: str) -> tuple[int, int] | None:
    """The ids of account and message in a Message-ID of ours; None when it is none."""
    found = _MESSAGE_ID.search(text)
    if not found or not fits(found[3], "message-id", f"{found[1]}.{found[2]}", _written):
        return None
    return int(found[1]), int(found[2])


def _written(signature: bytes) -> str:
    return urlsafe_b64encode(signature[:9]).decode()


class Senders:
    """Whom an account's messages come from, and by which key emails of a domain are signed."""

    def __init__(self, account: Account) -> None:
        self.signing = signing_of(account)
        self.brand = brand_of(account)
        rows = list(Sender.objects.filter(account=account, confirmed_at__isnull=False))
        self.named = {(one.channel, one.name): one for one in rows}
        self.usual = {(one.channel, purpose): one for one in rows for purpose in one.usual_for}

    def of(self, channel: Channel, name: str, purpose: str) -> Sender | None:
        """The one that a line names, or the usual one for the purpose. None: that of the account itself."""
        return self.named.get((channel, name)) or self.usual.get((sort_of(channel), purpose))


def sort_of(channel: Channel) -> Channel:
    """Emails come from addresses; all else from numbers, which stand under "text"."""
    return "email" if channel == "email" else "text"


def parcel(
    message: Message,
    account: Account,
    senders: Senders,
    care: Care,
    answers: str = "",
    letter: SentLetter | None = None,
    files: Mapping[str, Enclosed] = MappingProxyType({}),
) -> Parcel:
    """`answers` is the Message-ID of the mail that this one replies to, if it does; `letter`: what it is in lines; `files`: what emails carry, by
    digest."""
    channel: Channel = message.channel
    named = senders.of(channel, message.sender, message.purpose)
    key = carrier_key(account.id, message.key)
    own = preferences_link(account.id, message.contact_id)
    if channel != "email":
        sender = named.address if named else account.text_number
        shown = (named.shown_as if named else "") or account.name
        by_hand = message.by_id is not None
        below = "" if message.answers_word else closing(channel, message.body, own, care, by_hand)
        text = message.body + below
        return Parcel(key, channel, sender, shown, message.address, message.subject, text)
    sender = named.address if named else account.sender_email
    shown = (named.shown_as if named else "") or account.sender_name
    head = heads.read(message.head)
    reply_to = head.reply_to or (named.reply_to if named else "")
    link = f"{settings.ADDRESS}/u/{unsubscribe_token(account.id, message.contact_id)}"
    footer, to_own = _footer(account), words_for("email", care)
    return Parcel(
        key,
        "email",
        sender,
        shown,
        message.address,
        message.subject,
        f"{message.body}\n\n--\n{footer}\n{to_own}: {own}\nNo more emails: {link}\n",
        html_of(letter, look_of(account), under(footer, own, to_own, link, web_link(message)))
        if letter
        else _html(message.body, footer, (own, to_own), link, senders.brand),
        message_id(message, sender.rpartition("@")[2]),
        (
            # RFC 2369 and RFC 8058: the mail program's own button.
            ("List-Unsubscribe", f"<{link}>"),
            ("List-Unsubscribe-Post", "List-Unsubscribe=One-Click"),
            *((("Reply-To", reply_to),) if reply_to else ()),
            *((("In-Reply-To", answers), ("References", answers)) if answers else ()),
        ),
        senders.signing.get(domain_of(sender)),
        message.calendar,
        head.called,
        heads.carried(head, files),
    )


def _footer(account: Account) -> str:
    below = f"{account.closing_lines}\n" if account.closing_lines else ""
    return f"{below}{account.name}, {account.postal_address}"


def read_in_the_web(sent: SentLetter) -> str:
    """A letter's HTML with what stands under it now."""
    account, message = sent.account, sent.message
    link = f"{settings.ADDRESS}/u/{unsubscribe_token(account.id, message.contact_id)}"
    own, words = preferences_link(account.id, message.contact_id), words_for("email", account_facts(account).care)
    return html_of(sent, look_of(account), under(_footer(account), own, words, link, "#"))


def _html(body: str, footer: str, own: tuple[str, str], link: str, brand: Brand) -> str:
    """Paragraphs and links of a plain body, below the account's logo; everything in it is escaped. `own` is the address of the
    contact's own page and the words that lead there."""
    style = f' style="color:{brand.link}"'
    paragraphs = []
    for block in re.split(r"\n\s*\n", body.strip()):
        words = URL.sub(lambda found: f'<a href="{found[0]}"{style}>{found[0]}</a>', str(escape(block)))
        paragraphs.append(f"<p>{words.replace(chr(10), '<br>')}</p>")
    small = f'<p><small>{str(escape(footer)).replace(chr(10), "<br>")}<br><a href="{own[0]}">{escape(own[1])}</a> · <a href="{link}">No more emails</a></small></p>'
    logo = f'<p><img src="{settings.ADDRESS}{brand.logo}" alt="" height="40"></p>' if brand.logo else ""
    return logo + "".join(paragraphs) + "<hr>" + small
