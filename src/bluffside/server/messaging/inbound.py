"""Mail that comes in: replies, found by the headers that thread them, and reports of what became of ours.

A mail server hands mail over by SMTP (RFC 5321) to `receive_mail`; it is answered "250" only once what it says is in
the database, and "451" when that failed, so that the server brings it again and none is lost. A mail brought twice is
known by its Message-ID.

    a reply      In-Reply-To or References name a Message-ID of ours (RFC 5322, 3.6.4)
    a report     a mail of ours bounced, or somebody marked it as unwanted: see reports.py
    an answer    to a calendar entry (RFC 6047): see appointments/calendars.py
    a stranger   nobody here has the address: see strangers.py
    automatic    Auto-Submitted other than "no" (RFC 3834): kept, and no workflow hears it
"""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from email import message_from_bytes
from email.message import EmailMessage
from email.policy import default
from email.utils import parseaddr
from hashlib import sha256
from html import unescape
from secrets import token_hex

import nh3

from bluffside.server import sql
from bluffside.server.messaging import strangers
from bluffside.server.messaging.carrier import Parcel, carrier_for
from bluffside.server.messaging.domains import domain_of
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.parcels import carrier_key, read_message_id
from bluffside.server.messaging.reports import as_receipt, header, read_report, take_complaint
from bluffside.server.messaging.services import take_receipts, take_reply
from bluffside.server.messaging.testing import NotSent
from bluffside.server.people.services import contact_at
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import Account, Connection
from bluffside.server.practice.walls import within

LONGEST = 10_000
ROUND = "A test of mail coming in:"  # how the subject begins of a mail that is to come in again
LONGEST_BODY = 500_000  # characters that are looked at
BLOCKS = {"p", "div", "br", "li", "tr", "td", "th", "blockquote", "h1", "h2", "h3", "h4"}
_QUOTED_BELOW = re.compile(
    r"^(on .{5,200} wrote:|-{2,}\s*original message\s*-{2,}|from: .+)$", re.IGNORECASE | re.MULTILINE
)


@dataclass(frozen=True, slots=True)
class Taken:
    """What became of a mail: in words, for the log."""

    did: str


def accounts_at(addresses: list[str]) -> dict[str, int]:
    """Which accounts' mail these addresses are, by address."""
    found = sql.rows("SELECT address, account_id FROM bluffside_accounts_at(%s)", [[a.lower() for a in addresses]])
    return dict(found)


def take_mail(wire: bytes, recipients: list[str]) -> list[Taken]:
    """Takes one mail for those of the recipients that are an account's addresses."""
    mail, digest = message_from_bytes(wire, policy=default), sha256(wire).hexdigest()
    assert isinstance(mail, EmailMessage)
    accounts = Account.objects.filter(id__in=accounts_at(recipients).values()).select_related("responsible")
    return [_take(mail, digest, account) for account in accounts.order_by("id")]


def _take(mail: EmailMessage, digest: str, account: Account) -> Taken:
    with within(account):
        if report := read_report(mail):
            connections.heard(account, "mail", "", "works", "what became of a mail came in")
            if report.feedback:
                return Taken("marked as unwanted" if take_complaint(account, report) else "nothing new")
            take_receipts([receipt for receipt in [as_receipt(report)] if receipt])
            return Taken("bounced")
        name, sender = parseaddr(header(mail, "From"))
        sender, subject = sender.lower(), " ".join(header(mail, "Subject").split())
        if came_back(account, subject):
            return Taken("a test of this connection")
        if any(reads(account, text, sender) for text in _calendars(mail) for reads in _calendar_readers):
            return Taken("an answer to a calendar entry")
        connections.heard(account, "mail", "", "works", "a mail came in")
        automatic = (header(mail, "Auto-Submitted") or "no").split(";")[0].strip().lower() != "no"
        key = header(mail, "Message-ID").strip(" <>")
        key = (f"<{key}>" if key else f"<none.{digest}>")[:250]
        words, answered = _words(mail), _answered(mail, account)
        if not (answered or automatic or contact_at(account, "email", sender)):
            reply = strangers.came(account, strangers.Written(key, sender, name, subject, words))
            return Taken("a new contact" if reply else "kept apart: nobody here knows the writer")
        reply = take_reply(account, "email", sender, words, key, answered, automatic, subject)
        return Taken("a reply" if reply else "nothing new")


CalendarReader = Callable[[Account, str, str], bool]
_calendar_readers: list[CalendarReader] = []


def when_calendar_comes(reads: CalendarReader) -> None:
    """Called when apps are ready: who reads what mail programs answer to entries of a calendar (RFC 6047), by account, text and
    sender; answers whether it was one. Such an answer is nobody's words, and no workflow hears it."""
    _calendar_readers.append(reads)


def _calendars(mail: EmailMessage) -> Iterator[str]:
    for part in mail.walk():
        if part.get_content_type() == "text/calendar":
            payload = part.get_payload(decode=True)
            if isinstance(payload, bytes) and len(payload) <= LONGEST_BODY:
                yield payload.decode("utf-8", "replace")


def test_round(account: Account) -> str:
    """A mail goes to the address that answers come to, and must come in again. Answers that address. Raises NotSent."""
    mark = token_hex(8)
    row, _ = Connection.objects.get_or_create(account=account, kind="mail", name="")
    row.test, row.test_at = mark, clock.now()
    row.save(update_fields=["test", "test_at"])
    words = "This mail went out to see whether what is answered comes in. Nobody needs to do anything with it."
    key = carrier_key(account.id, f"round.{mark}")
    subject = f"{ROUND} {mark}"
    to = account.sender_email
    if not to:
        raise NotSent("no address is set and confirmed that emails come from, so nobody can answer one.")
    id = f"<round.{mark}@{domain_of(to)}>"
    [answer] = carrier_for("email").hand_over(
        [Parcel(key, "email", to, account.name, to, subject, words, message_id=id)]
    )
    if answer.did != "taken":
        raise NotSent(answer.reason or "the carrier did not take it.")
    return to


def came_back(account: Account, subject: str) -> bool:
    """Whether a mail is the test that is on its way; then the connection works."""
    mark = subject.removeprefix(f"{ROUND} ")
    if mark == subject or not Connection.objects.filter(account=account, kind="mail", test=mark).update(
        test="", test_at=None
    ):
        return False
    connections.heard(account, "mail", "", "works", "the test came in")
    return True


def _answered(mail: EmailMessage, account: Account) -> Message | None:
    """The message of the account that a mail answers: the last that its headers name."""
    named = re.findall(r"<[^<>\s]+>", f"{header(mail, 'References')} {header(mail, 'In-Reply-To')}"[:20_000])
    for text in reversed(named):
        if (found := read_message_id(text)) and found[0] == account.id:
            return Message.objects.filter(account=account, id=found[1]).first()
    return None


def _words(mail: EmailMessage) -> str:
    """What was written, without what is quoted below it."""
    body = mail.get_body(("plain", "html"))
    try:
        text = str(body.get_content()) if body else ""
    except (LookupError, ValueError):  # an encoding that nobody knows, or that is none
        payload = body.get_payload(decode=True) if body else b""
        text = payload.decode("latin-1") if isinstance(payload, bytes) else ""
    text = sql.plain(text[:LONGEST_BODY])
    if body and body.get_content_subtype() == "html":
        text = _without_markup(text)
    text = text.replace("\r\n", "\n")
    if quoted := _QUOTED_BELOW.search(text):
        text = text[: quoted.start()] or text
    lines = [line for line in text.split("\n") if not line.startswith(">")]
    return "\n".join(lines).strip()[:LONGEST]


def _without_markup(text: str) -> str:
    """The words of HTML, by a browser's own rules; scripts and styles are gone, and blocks stand apart."""
    marked = nh3.clean(text, tags=BLOCKS, clean_content_tags={"script", "style", "title"}, attributes={}, link_rel=None)
    return unescape(re.sub(r"<[^<>]*>", " ", marked))
