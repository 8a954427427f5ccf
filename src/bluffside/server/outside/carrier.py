"""The simulated carrier: takes each key once, delivers after a moment, and reports what became of it.

Numbers that end in 99 and addresses that begin with "gone" do not exist: messages to them are
taken and then reported as failed, as a carrier does. Nothing leaves this machine.
"""

from datetime import timedelta

from django.db import transaction
from django.db.models import F

from bluffside.server.messaging.carrier import Parcel, Refused
from bluffside.server.messaging.services import Receipt, take_receipts
from bluffside.server.outside.models import Item
from bluffside.server.practice import clock

BATCH = 500
TRANSIT = timedelta(seconds=2)


class SimulatedCarrier:
    def hand_over(self, parcel: Parcel) -> None:
        """Commits by itself, apart from the caller: what was taken stays taken whatever happens to the caller."""
        if not parcel.to or not parcel.text.strip():
            raise Refused("no address" if not parcel.to else "no words")
        gone = parcel.to.endswith("99") if parcel.channel == "text" else parcel.to.startswith("gone")
        now = clock.now()
        _, new = Item.objects.get_or_create(
            key=parcel.key,
            defaults={
                "channel": parcel.channel,
                "inbound": False,
                "ours": parcel.sender,
                "ours_name": parcel.sender_name,
                "theirs": parcel.to,
                "subject": parcel.subject,
                "text": parcel.text,
                "html": parcel.html,
                "at": now,
                "report": "failed" if gone else "delivered",
                "report_reason": "no such number"
                if parcel.channel == "text" and gone
                else "no such mailbox"
                if gone
                else "",
                "report_at": now + TRANSIT,
            },
        )
        if not new:
            Item.objects.filter(key=parcel.key).update(times_handed_over=F("times_handed_over") + 1)


@transaction.atomic
def receipt_batch() -> int:
    """Reports what has become of messages whose transit is over; answers how many."""
    due = Item.objects.filter(reported=False, report_at__lte=clock.now()).order_by("report_at", "id")
    items = list(due.select_for_update(skip_locked=True)[:BATCH])
    if not items:
        return 0
    take_receipts(
        [
            Receipt(
                item.key,
                "failed" if item.report == "failed" else "delivered",
                item.report_reason,
                item.report_at or item.at,
            )
            for item in items
        ]
    )
    Item.objects.filter(id__in=[item.id for item in items]).update(reported=True)
    return len(items)
