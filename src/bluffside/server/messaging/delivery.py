"""Handing messages to the carrier: never twice, never lost.

    queued --lease--> sending --taken--> sent          the row and the event commit together
                        |  \--refused--> failed
                        |  \--not now--> queued, later  (backoff with jitter)
                        \--worker dies, lease runs out--> leased again, same key

A message whose worker died may or may not have been taken. It is handed over again with the same key,
and a carrier that took it before changes nothing. Consent is looked at once more before each try, so that an
opt-out holds even against a message queued while it was being written.
"""

import logging
import random
from collections import defaultdict
from datetime import timedelta

from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from bluffside.core.channels.consent import why_closed
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.messaging.carrier import Refused, Unavailable, carrier
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.parcels import parcel
from bluffside.server.people.queries import load_facts
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account

BATCH = 100
LEASE = timedelta(seconds=60)
MOST_ATTEMPTS = 8
State = Message.State
log = logging.getLogger("bluffside.delivery")


def deliver_batch() -> int:
    """Leases due messages, hands them over, writes down what came of it; answers how many."""
    messages = _lease()
    if not messages:
        return 0
    facts = load_facts(message.contact_id for message in messages)
    for message in messages:
        closed = why_closed(facts[message.contact_id].contact, "text" if message.channel == "text" else "email")
        if closed:
            _settle(message, State.CANCELLED, closed)
            continue
        try:
            carrier().hand_over(parcel(message))
        except Refused as error:
            _settle(message, State.FAILED, str(error))
        except Unavailable as error:
            _try_again(message, str(error))
        else:
            message.state, message.sent_at, message.leased_until = State.SENT, clock.now(), None
    _write(messages)
    return len(messages)


@transaction.atomic
def _lease() -> list[Message]:
    real = timezone.now()
    due = Message.objects.filter(
        Q(state=State.QUEUED, next_try_at__lte=clock.now()) | Q(state=State.SENDING, leased_until__lt=real)
    )
    messages = list(
        due.select_for_update(skip_locked=True, of=("self",))
        .select_related("account", "by")
        .order_by("next_try_at", "id")[:BATCH]
    )
    if not messages:
        return []
    for message in messages:
        message.state, message.leased_until = State.SENDING, real + LEASE
        message.attempts += 1
    Message.objects.bulk_update(messages, ["state", "leased_until", "attempts"])
    return messages


def _settle(message: Message, state: State, reason: str) -> None:
    message.state, message.reason, message.leased_until = state, reason[:300], None
    message.settled_at = clock.now()


def _try_again(message: Message, reason: str) -> None:
    if message.attempts >= MOST_ATTEMPTS:
        _settle(message, State.FAILED, f"not taken after {MOST_ATTEMPTS} tries: {reason}")
        return
    wait = min(3600, 5 * 2**message.attempts) * random.uniform(0.5, 1.5)  # noqa: S311  # jitter, not a secret
    message.state, message.leased_until = State.QUEUED, None
    message.next_try_at = clock.now() + timedelta(seconds=wait)
    message.reason = reason[:300]


@transaction.atomic
def _write(messages: list[Message]) -> None:
    """Only what is still ours to write: a receipt may have been quicker, another worker may hold the lease."""
    current = {
        row.id: row
        for row in Message.objects.select_for_update().filter(id__in=[m.id for m in messages], state=State.SENDING)
    }
    mine = [m for m in messages if m.id in current and current[m.id].attempts == m.attempts]
    fields = ["state", "reason", "leased_until", "next_try_at", "sent_at", "settled_at"]
    Message.objects.bulk_update(mine, fields)
    happened: dict[Account, list[Happened]] = defaultdict(list)
    for message in mine:
        if message.state != State.QUEUED:
            data = {"channel": message.channel, "name": message.name, "message": message.id, "reason": message.reason}
            cause = Cause(actor=message.by, enrolment_id=message.enrolment_id)
            happened[message.account].append(Happened(f"message.{message.state}", message.contact_id, data, cause))
    for account, of_account in happened.items():
        record(account, of_account)
