"""Notices to members that go out by email."""

from django.db import transaction

from bluffside.server.diary.models import Notice
from bluffside.server.messaging.carrier import Parcel, carrier_for
from bluffside.server.messaging.parcels import carrier_key
from bluffside.server.practice.models import Account

BATCH = 10  # in one transaction, so few


@transaction.atomic
def notice_batch(account: Account) -> int:
    """Hands notices to the carrier, and marks those it took or will never take; answers how many those are. To a
    member of the team one too many, after a crash, is better than none."""
    waiting = Notice.objects.filter(account=account, mail=True).select_related("person", "contact").order_by("id")
    notices = list(waiting.select_for_update(skip_locked=True, of=("self",))[:BATCH])
    parcels = [
        Parcel(
            carrier_key(account.id, f"notice:{one.id}"),
            "email",
            account.sender_email,
            account.name,
            one.person.email,
            f"{one.contact.name}: {one.text}"[:120],
            f"{one.text}\n\nAbout {one.contact.name}, in {account.name}.",
            message_id=f"<notice.{account.id}.{one.id}@{account.sender_email.rpartition('@')[2]}>",
        )
        for one in notices
    ]
    answers = carrier_for("email").hand_over(parcels) if parcels else []
    settled = [one.id for one, answer in zip(notices, answers, strict=True) if answer.did != "unavailable"]
    Notice.objects.filter(id__in=settled).update(mail=False)
    return len(settled)
