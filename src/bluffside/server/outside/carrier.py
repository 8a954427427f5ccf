"""The simulated carrier: takes each key once, delivers after a moment, and reports what became of it.

Numbers that end in 99 and addresses that begin with "gone" do not exist: messages to them are
taken and then reported as bounced, as a carrier does. Nothing leaves this machine. How it behaves beyond that
(away, slow, silent, reporting twice or backward) is ordered by a row of Temper.
"""

import random
import time
from collections.abc import Sequence
from datetime import timedelta
from email.message import EmailMessage
from email.policy import default

from django.db import transaction

from bluffside.core.terms import ADDRESS_OF
from bluffside.server import sql
from bluffside.server.messaging.carrier import TAKEN, Answer, Parcel
from bluffside.server.messaging.inbound import take_mail
from bluffside.server.messaging.services import Receipt, take_receipts
from bluffside.server.outside.models import Item, Temper
from bluffside.server.practice import clock

BATCH = 500
TRANSIT = timedelta(seconds=2)


class SimulatedCarrier:
    knows_keys = True

    def hand_over(self, parcels: Sequence[Parcel]) -> list[Answer]:
        """Commits by itself, apart from the caller: what was taken stays taken whatever happens to the caller."""
        temper = Temper.objects.first() or Temper()
        if temper.slow:
            time.sleep(random.uniform(0, 2 * temper.slow) / 1_000)  # noqa: S311
        answers = [self._refused(parcel) or self._away(temper) for parcel in parcels]
        self._keep([parcel for parcel, answer in zip(parcels, answers, strict=True) if answer.did == "taken"], temper)
        return [
            Answer("unavailable", "the line broke") if answer is TAKEN and _happens(temper.broken) else answer
            for answer in answers
        ]

    def _refused(self, parcel: Parcel) -> Answer | None:
        if not parcel.to or not parcel.text.strip():
            return Answer("refused", "no address" if not parcel.to else "no words")
        return None

    def _away(self, temper: Temper) -> Answer:
        return Answer("unavailable", "nobody answers") if _happens(temper.away) else TAKEN

    def _keep(self, parcels: Sequence[Parcel], temper: Temper) -> None:
        now = clock.now()
        rows = []
        for parcel in {one.key: one for one in parcels}.values():
            mailbox = ADDRESS_OF[parcel.channel] == "email"
            gone = parcel.to.startswith("gone") if mailbox else parcel.to.endswith("99")
            why = ("no such mailbox" if mailbox else "no such number") if gone else ""
            rows.append(
                (parcel.key, parcel.channel, parcel.sender, parcel.sender_name, parcel.to, parcel.subject, parcel.text,
                 parcel.html, parcel.calendar, now, "bounced" if gone else "delivered", why, now + TRANSIT, _happens(temper.silent))
            )  # fmt: skip
        columns = (
            "key", "channel", "ours", "ours_name", "theirs", "subject", "text", "html", "calendar", "at", "report",
            "report_reason", "report_at", "reported",
        )  # fmt: skip
        again = "ON CONFLICT (key) DO UPDATE SET times_handed_over = outside_item.times_handed_over + 1"
        sql.insert(Item, columns, rows, on_conflict=again)


def _happens(share: float) -> bool:
    return share > 0 and random.random() < share  # noqa: S311  # made-up behaviour


def _written(item: Item) -> EmailMessage:
    mail = EmailMessage(policy=default)
    mail["From"], mail["To"], mail["Subject"] = item.ours, item.theirs, item.subject
    mail["Message-ID"] = f"<{item.pk}@outside.example>"
    mail.set_content(item.text)
    return mail


@transaction.atomic
def receipt_batch() -> int:
    """Reports what has become of messages whose transit is over; answers how many."""
    due = Item.objects.filter(reported=False, report_at__lte=clock.now()).order_by("report_at", "id")
    items = list(due.select_for_update(skip_locked=True)[:BATCH])
    if not items:
        return 0
    temper = Temper.objects.first() or Temper()
    receipts = [Receipt(item.key, item.report, item.report_reason, item.report_at or item.at) for item in items]  # type: ignore[arg-type]
    receipts += [receipt for receipt in receipts if _happens(temper.doubled)]
    take_receipts(receipts[::-1] if temper.backward else receipts)
    Item.objects.filter(id__in=[item.id for item in items]).update(reported=True)
    for item in items:
        if item.channel == "email" and item.ours == item.theirs:  # to itself: it comes in like any other
            take_mail(_written(item).as_bytes(), [item.theirs])
    return len(items)
