"""Email by SMTP (RFC 5321), and the form it goes in.

A mail is written so that a signer in front of it can sign it as it stands (DKIM, RFC 6376): every line ends in CRLF
and is short, bodies are quoted-printable so that no server on the way re-encodes them, and Date, Message-ID,
List-Unsubscribe and List-Unsubscribe-Post are there for the signature to cover, as RFC 8058 (section 4) asks.

SMTP knows no keys. After the last line of a mail the server may have taken it although its answer is lost: that is
`unknown`. Before it, a line that breaks, cannot be opened or refuses to sign in is `away`: nothing was handed over, and the
mail is tried again. A server's certificate is verified, and no password goes in clear, but to this machine itself.
"""

import re
import smtplib
import ssl
import threading
import time
from collections.abc import Sequence
from datetime import datetime
from email.headerregistry import Address
from email.message import EmailMessage
from email.policy import SMTP
from email.utils import format_datetime
from urllib.parse import SplitResult, unquote, urlsplit

import dkim
from django.conf import settings

from bluffside.server.messaging.carrier import TAKEN, Answer, Parcel
from bluffside.server.messaging.domains import signed
from bluffside.server.practice import clock

POLICY = SMTP.clone(max_line_length=78, utf8=False)
METHOD = re.compile(r"^METHOD:([A-Z]+)\s*$", re.MULTILINE)
KEPT = 30.0  # seconds for which an idle line is kept
PATIENCE = 10.0  # seconds for each answer of the server; all of them together stay below a lease


def compose(parcel: Parcel, at: datetime) -> EmailMessage:
    """The mail (RFC 5322) of a parcel. Words from people become header values only by way of the library, which
    refuses line breaks in them."""
    mail = EmailMessage(policy=POLICY)
    mail["From"] = _address(parcel.sender_name, parcel.sender)
    mail["To"] = _address(parcel.to_name, parcel.to)
    mail["Subject"] = " ".join(parcel.subject.split())
    mail["Date"] = format_datetime(at)
    mail["Message-ID"] = parcel.message_id
    for name, value in parcel.headers:
        mail[name] = value
    mail.set_content(parcel.text, cte="quoted-printable")
    if parcel.html:
        mail.add_alternative(parcel.html, subtype="html", cte="quoted-printable")
    if parcel.calendar:  # RFC 6047, 2.4: its method stands in the type, too
        method = METHOD.search(parcel.calendar)
        about = {"method": method[1] if method else "PUBLISH"}
        mail.add_alternative(parcel.calendar, subtype="calendar", cte="quoted-printable", params=about)
    for one in parcel.files:
        sort, _, subsort = one.sort.partition("/")
        mail.add_attachment(one.content, maintype=sort, subtype=subsort, filename=one.name)
    return mail


def _address(name: str, address: str) -> Address:
    local, _, domain = address.rpartition("@")
    return Address(" ".join(name.split()), local, domain)


class SmtpCarrier:
    """Hands mail to the server that settings.BLUFFSIDE_SMTP names: smtp://[user:password@]host:port, or smtps://. Each thread
    keeps the line it has opened for the next mail."""

    knows_keys = False
    _kept = threading.local()

    def hand_over(self, parcels: Sequence[Parcel]) -> list[Answer]:
        try:
            line = self._line()
        except (OSError, smtplib.SMTPException) as error:
            return [Answer("away", f"the mail server cannot be used: {_said(error)}")] * len(parcels)
        return [self._hand(line, parcel) for parcel in parcels]

    def _line(self) -> smtplib.SMTP:
        """An open line, signed in: the kept one while it is fresh and answers, else a new one."""
        kept, since, wanted = _idle_of(self._kept)
        if kept is not None:
            self._kept.line = (None, 0.0, "")
            fresh = wanted == settings.BLUFFSIDE_SMTP and time.monotonic() - since < KEPT
            try:
                if fresh and kept.noop()[0] == 250:
                    self._kept.line = (kept, time.monotonic(), wanted)
                    return kept
            except (OSError, smtplib.SMTPException):
                pass
            kept.close()
        line = self._connect(urlsplit(settings.BLUFFSIDE_SMTP))
        self._kept.line = (line, time.monotonic(), settings.BLUFFSIDE_SMTP)
        return line

    def _connect(self, server: SplitResult) -> smtplib.SMTP:
        host, verified = server.hostname or "", ssl.create_default_context()
        if server.scheme == "smtps":
            line: smtplib.SMTP = smtplib.SMTP_SSL(host, server.port or 465, timeout=PATIENCE, context=verified)
        else:
            line = smtplib.SMTP(host, server.port or 25, timeout=PATIENCE)
            line.ehlo()
            if line.has_extn("starttls") and not _is_loopback(host):
                line.starttls(context=verified)
                line.ehlo()
            elif server.username and not _is_loopback(host):
                line.close()
                raise smtplib.SMTPException("it offers no encryption, and a password does not go in clear")
        if server.username:
            try:
                line.login(unquote(server.username), unquote(server.password or ""))
            except smtplib.SMTPException:
                line.close()
                raise
        return line

    def _hand(self, line: smtplib.SMTP, parcel: Parcel) -> Answer:
        try:
            wire = compose(parcel, clock.now()).as_bytes(policy=POLICY)
            if parcel.signing:
                wire = signed(wire, parcel.signing)
        except (ValueError, dkim.DKIMException) as error:  # an address or header that cannot be written
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
            line.close()  # the next mail opens another
            return Answer("unknown" if handed else "away", f"the line broke: {_said(error)}")
        return TAKEN if code < 400 else _refusal(code, words)


def _idle_of(kept: threading.local) -> tuple[smtplib.SMTP | None, float, str]:
    """A thread's kept line, since when, and to which server."""
    found: tuple[smtplib.SMTP | None, float, str] = getattr(kept, "line", (None, 0.0, ""))
    return found


def _is_loopback(host: str) -> bool:
    """This machine itself: nobody listens on the way."""
    return host == "localhost" or host.startswith("127.") or host == "::1"


def _said(error: Exception) -> str:
    """In words, with nothing of what was sent."""
    if isinstance(error, smtplib.SMTPAuthenticationError):
        return f"it refuses the user name and password ({error.smtp_code})"
    if isinstance(error, ssl.SSLCertVerificationError):
        return f"its certificate is not valid: {error.verify_message}"
    return str(error)[:200] or type(error).__name__


def _refusal(code: int, words: bytes | str) -> Answer:
    """4yz is for now, 5yz for good (RFC 5321, 4.2.1)."""
    text = words.decode(errors="replace") if isinstance(words, bytes) else words
    return Answer("unavailable" if code < 500 else "refused", f"{code} {text}"[:300])
