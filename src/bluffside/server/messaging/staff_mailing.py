"""Mail to those who work here, as it goes out (practice/staff_mail.py)."""

from datetime import timedelta

from django.conf import settings
from django.db import transaction

from bluffside.server.leasing import later
from bluffside.server.messaging.carrier import Parcel, carrier_for
from bluffside.server.practice import clock
from bluffside.server.practice.models import StaffMail
from bluffside.server.practice.sealing import CannotUnseal, unseal

BATCH = 5  # in one transaction, so few
GIVEN_UP = timedelta(days=2)  # what opens a door is too old by then


@transaction.atomic
def staff_mail_batch() -> int:
    """Hands some over; answers how many. One too many, after a crash, is better than none."""
    now = clock.now()
    due = StaffMail.objects.filter(next_try_at__lte=now).order_by("next_try_at", "id")
    mails = list(due.select_for_update(skip_locked=True)[:BATCH])
    for mail in mails:
        _hand_over(mail)
    return len(mails)


def _hand_over(mail: StaffMail) -> None:
    domain = settings.BLUFFSIDE_MAIL_FROM.rpartition("@")[2]
    try:
        words = unseal(mail.sealed)
    except CannotUnseal as error:
        _settle(mail, str(error))
        return
    parcel = Parcel(
        f"staff:{mail.id}",
        "email",
        settings.BLUFFSIDE_MAIL_FROM,
        "Bluffside",
        mail.address,
        mail.subject,
        words,
        message_id=f"<staff.{mail.id}@{domain}>",
        headers=(("Auto-Submitted", "auto-generated"),),  # RFC 3834, section 5
    )
    [answer] = carrier_for("email").hand_over([parcel])
    given_up = answer.did not in ("taken", "refused", "unknown") and clock.now() - mail.made_at > GIVEN_UP
    if answer.did in ("taken", "refused", "unknown") or given_up:
        _settle(mail, "" if answer.did == "taken" else answer.reason)
        return
    mail.attempts, mail.reason = mail.attempts + 1, answer.reason[:300]
    mail.next_try_at = later(clock.now(), mail.attempts)
    mail.save(update_fields=["attempts", "reason", "next_try_at"])


def _settle(mail: StaffMail, reason: str) -> None:
    mail.sealed, mail.next_try_at, mail.reason = "", None, reason[:300]
    mail.save(update_fields=["sealed", "next_try_at", "reason"])
