"""Email by SMTP (RFC 5321), and the form it goes in.

A mail is written so that a signer in front of it can sign it as it stands (DKIM, RFC 6376): every line ends in CRLF
and is short, bodies are quoted-printable so that no server on the way re-encodes them, and Date, Message-ID,
List-Unsubscribe and List-Unsubscribe-Post are there for the signature to cover, as RFC 8058 (section 4) asks.

SMTP knows no keys. After the last line of a mail the server may have taken it although its answer is lost: that is
`unknown`. Before it, a line that breaks is `unavailable`, and the mail may be tried again.
"""

import smtplib
from collections.abc import Sequence
from datetime import datetime
from email.headerregistry import Address
from email.message import EmailMessage
from email.policy import SMTP
from email.utils import format_datetime
from urllib.parse import unquote, urlsplit

from django.conf import settings

from bluffside.server.messaging.carrier import TAKEN, Answer, Parcel
from bluffside.server.practice import clock

POLICY = SMTP.clone(max_line_length=78, utf8=False)
PATIENCE = 10.0  # seconds for each answer of the server; all of them together stay below a lease


def compose(parcel: Parcel, at: datetime) -> EmailMessage:
    """The mail (RFC 5322) of a parcel. Words from people become header values only by way of the library, which
    refuses line breaks in them."""
    mail = EmailMessage(policy=POLICY)
    mail["From"] = _address(parcel.sender_name, parcel.sender)
    mail["To"] = _address("", parcel.to)
    mail["Subject"] = " ".join(parcel.subject.split())
    mail["Date"] = format_datetime(at)
    mail["Message-ID"] = parcel.message_id
    for name, value in parcel.headers:
        mail[name] = value
    mail.set_content(parcel.text, cte="quoted-printable")
    if parcel.html:
        mail.add_alternative(parcel.html, subtype="html", cte="quoted-printable")
    return mail


def _address(name: str, address: str) -> Address:
    local, _, domain = address.rpartition("@")
    return Address(" ".join(name.split()), local, domain)


class SmtpCarrier:
    """Hands mail to the server that settings.BLUFFSIDE_SMTP names: smtp://[user:password@]host:port, or smtps://."""

    knows_keys = False

    def hand_over(self, parcels: Sequence[Parcel]) -> list[Answer]:
        server = urlsplit(settings.BLUFFSIDE_SMTP)
        try:
            line = self._connect(server.scheme, server.hostname or "", server.port or 0)
        except (OSError, smtplib.SMTPException) as error:
            return [Answer("unavailable", f"the mail server does not answer: {error}")] * len(parcels)
        with line:
            if server.username:
                line.login(unquote(server.username), unquote(server.password or ""))
            return [self._hand(line, parcel) for parcel in parcels]

    def _connect(self, scheme: str, host: str, port: int) -> smtplib.SMTP:
        if scheme == "smtps":
            return smtplib.SMTP_SSL(host, port or 465, timeout=PATIENCE)
        line = smtplib.SMTP(host, port or 25, timeout=PATIENCE)
        line.ehlo()
        if line.has_extn("starttls"):
            line.starttls()
            line.ehlo()
        return line

    def _hand(self, line: smtplib.SMTP, parcel: Parcel) -> Answer:
        try:
            wire = compose(parcel, clock.now()).as_bytes(policy=POLICY)
        except ValueError as error:  # an address or header that cannot be written
            return Answer("refused", f"the mail cannot be written: {error}")
        handed = False
        try:
            for code, words in (line.mail(parcel.sender), line.rcpt(parcel.to)):
                if code >= 400:
                    line.rset()
                    return _refusal(code, words)
            handed = True
            code, words = line.data(wire)
        except smtplib.SMTPDataError as error:  # before the first line of the mail
            return _refusal(error.smtp_code, error.smtp_error)
        except (OSError, smtplib.SMTPException) as error:
            return Answer("unknown" if handed else "unavailable", f"the line broke: {error}")
        return TAKEN if code < 400 else _refusal(code, words)


def _refusal(code: int, words: bytes | str) -> Answer:
    """4yz is for now, 5yz for good (RFC 5321, 4.2.1)."""
    text = words.decode(errors="replace") if isinstance(words, bytes) else words
    return Answer("unavailable" if code < 500 else "refused", f"{code} {text}"[:300])
