"""What mail servers report of mails that went out: that one could not be delivered, that somebody marked one as unwanted.

    a bounce       multipart/report with a message/delivery-status that says "failed" (RFC 3464)
    a complaint    multipart/report with a message/feedback-report (RFC 5965), unless it says "not-spam" (RFC 6430)

Both are about the mail whose Message-ID stands in the original that comes with them. Ours are signed, so that nobody can make a report
up about a mail they never had; a report whose original is left out is about nothing.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from email.message import EmailMessage

from django.db import transaction

from bluffside.server import sql
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.outbox import about
from bluffside.server.messaging.parcels import carrier_key, read_message_id
from bluffside.server.messaging.services import Receipt, opt_out
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account

NO_COMPLAINT = "not-spam"


@dataclass(frozen=True, slots=True)
class Report:
    """About one message of ours, by the ids of account and message. `feedback`: as which sort of feedback somebody marked it ("abuse");
    else it `failed`, for that reason."""

    about: tuple[int, int]
    feedback: str = ""
    failed: str = ""


def header(mail: EmailMessage, name: str) -> str:
    """A header in words, whatever stands in it; empty when there is none. The library raises for some that no mail should
    have ("From: <")."""
    try:
        said = str(mail[name] or "")
    except Exception:  # noqa: BLE001  # a header that nobody foresaw is left out
        raw = next((value for one, value in mail.raw_items() if one.lower() == name.lower()), "")
        said = str(raw)
    return sql.plain(said.encode("utf-8", "replace").decode())


def read_report(mail: EmailMessage) -> Report | None:
    """None where it is no report that is of use here."""
    if mail.get_content_type() != "multipart/report":
        return None
    failed, feedback, named = "", "", None
    for part in mail.walk():
        match part.get_content_type():
            case "message/delivery-status":
                failed = next(_failures(part), failed)
            case "message/feedback-report":
                feedback = next(_fields(part, "Feedback-Type"), feedback)
            case "message/rfc822" | "text/rfc822-headers":
                named = read_message_id(_message_id(part)) or named
    return Report(named, feedback.strip().lower()[:40], failed) if named and (failed or feedback) else None


def _failures(part: EmailMessage) -> Iterator[str]:
    for block in part.get_payload():
        if isinstance(block, EmailMessage) and header(block, "Action").strip().lower() == "failed":
            yield (header(block, "Diagnostic-Code") or header(block, "Status")).strip()[:300] or "bounced"


def _fields(part: EmailMessage, name: str) -> Iterator[str]:
    """A field of a machine-readable part: its own headers' or, as the library reads some, those of the message within, or its text."""
    inner = part.get_payload()
    for block in inner if isinstance(inner, list) else ():
        if isinstance(block, EmailMessage) and (said := header(block, name)):
            yield said
    if isinstance(inner, str):
        lines = (line.partition(":") for line in inner.splitlines())
        yield from (said.strip() for field, _, said in lines if field.strip().lower() == name.lower())


def _message_id(part: EmailMessage) -> str:
    inner = part.get_payload()
    first = inner[0] if isinstance(inner, list) and inner else None
    return header(first, "Message-ID") if isinstance(first, EmailMessage) else str(inner)


def as_receipt(report: Report) -> Receipt | None:
    """None where we sent no such message."""
    key = Message.objects.filter(account_id=report.about[0], id=report.about[1]).values_list("key", flat=True).first()
    return Receipt(carrier_key(report.about[0], key), "bounced", report.failed, clock.now()) if key else None


@transaction.atomic
def take_complaint(account: Account, report: Report) -> bool:
    """Whoever marks an email as unwanted gets no more marketing by email; what was agreed with them (an appointment) still comes: common
    practice. Once a message, however often it is reported. Answers whether it was new."""
    found = Message.objects.filter(account=account, id=report.about[1], complained_at=None)
    message = found.select_related("contact__account").select_for_update(of=("self",)).first()
    if report.feedback == NO_COMPLAINT or report.about[0] != account.id or message is None:
        return False
    message.complained_at = clock.now()
    message.save(update_fields=["complained_at"])
    data = about(message, reason=report.feedback)
    cause = Cause(enrolment_id=message.enrolment_id)
    record(account, [Happened("message.complained", message.contact_id, data, cause)])
    evidence = f"marked “{message.subject or message.name}” as unwanted, says their mail provider"
    opt_out(message.contact, "email", evidence, purposes=("marketing",), by_themselves=True)
    return True
