r"""Handing messages to the carriers: never twice, never lost.

    queued --lease--> sending --taken--> sent          the rows and the events commit together
       ^                |  \--refused--> failed
       |                |  \--not now--> queued, later  (backoff with jitter)
     token              \--worker dies, lease runs out--> leased again, same key

Where a sender has a speed, a message takes its token from the sender's bucket before it is leased, and goes at the
moment the token comes. A message whose worker died may or may not have been taken. It is handed over again with the
same key, and a carrier that took it before changes nothing. A carrier that knows no keys (SMTP) is given each message
once: what was being handed over when the line broke or the worker died is uncertain, and a person looks into it.
Consent is looked at once more before each try, so that an opt-out holds even against a message queued while it was
being written. And what a workflow has queued is not leased while something has reached the contact that their workflow has
not heard yet: an answer that is there may call it off (core.engine.batch: heard before sent).
"""

import logging
from collections import defaultdict
from collections.abc import Sequence
from datetime import timedelta

from django.conf import settings
from django.db import transaction
from django.db.models import Exists, OuterRef, Q
from django.utils import timezone

from bluffside.core.care.house import Care
from bluffside.core.care.pace import Bucket as Tokens
from bluffside.core.channels.consent import why_closed
from bluffside.core.terms import CHANNELS, Channel, Purpose
from bluffside.server import leasing, sql
from bluffside.server.events.counting import touch
from bluffside.server.events.models import Pending
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.messaging import heads
from bluffside.server.messaging.carrier import Answer, Carrier, Parcel, carrier_for, tell_of
from bluffside.server.messaging.letters import letters_of
from bluffside.server.messaging.models import Bucket, Message, Reply
from bluffside.server.messaging.outbox import about
from bluffside.server.messaging.parcels import Senders, parcel
from bluffside.server.messaging.stopping import hold_but_for_the_team, hold_switched_off, is_stopped
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import account_facts, load_contacts
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import Account

BATCH = 200
BATCH_WITHOUT_KEYS = 20  # handed over one by one, and to be done before the lease runs out
LEASE = timedelta(seconds=settings.BLUFFSIDE_LEASE)
MOST_ATTEMPTS = 8
AWAY = timedelta(days=3)  # for as long a message waits for a carrier that cannot be reached
State = Message.State
UNCERTAIN = "it was being handed over, and nobody knows what came of it"
# What has reached a message's contact, or its enrolment, and is not heard yet; areas above add theirs.
_unheard = [Exists(Pending.objects.filter(contact_id=OuterRef("contact_id"), fault=""))]
# Marketing, while what the contact wrote on the channel may mean that they want no more.
_LOOKED_AT = Exists(Contact.objects.filter(id=OuterRef("contact_id"), held_channels__contains=[OuterRef("channel")]))
log = logging.getLogger("bluffside.delivery")


def wait_while(unheard: Exists) -> None:
    """Called when apps are ready: messages of workflows wait while there is such a row for them."""
    _unheard.append(unheard)


def deliver_batch(account: Account) -> int:
    """Gives out tokens, leases due messages, hands them over, writes down what came of it; answers how many. Nothing while
    sending is stopped."""
    if is_stopped(account):
        return 0
    if account.trying_out:
        hold_but_for_the_team(account)
    if off := connections.switched_off(account, "channel"):
        hold_switched_off(account, off)
    care = account_facts(account).care
    paced = _give_tokens(account, care) if care.pace else 0
    messages = _lease(account, care)
    if not messages:
        return paced
    facts = load_contacts(account, (message.contact_id for message in messages))
    senders, letters = Senders(account), letters_of(messages)
    files = heads.enclosed(account, (heads.read(one.head) for one in messages))
    by_carrier: dict[Channel, list[tuple[Message, Parcel]]] = defaultdict(list)
    for message in messages:
        if message.state == State.UNCERTAIN:
            continue
        channel: Channel = message.channel
        purpose: Purpose = "service" if message.purpose == "service" else "marketing"
        contact = facts[message.contact_id].contact
        closed = "" if message.answers_word else why_closed(contact, channel, purpose, care, clock.now())
        if closed:
            _settle(message, State.CANCELLED, closed)
        else:
            made = parcel(message, account, senders, care, _answers(message), letters.get(message.pk), files)
            by_carrier[channel].append((message, made))
    for channel, given in by_carrier.items():
        answers = _hand_over(account, carrier_for(channel), given)
        tell_of(account, channel, answers)
    _write(account, messages)
    return len(messages)


def _answers(message: Message) -> str:
    """The Message-ID of the mail that a person answers with this one."""
    if message.by_id is None or message.channel != "email":
        return ""
    last = Reply.objects.filter(contact_id=message.contact_id, channel="email", key__startswith="<")
    return last.order_by("-id").values_list("key", flat=True).first() or ""


def _give_tokens(account: Account, care: Care) -> int:
    """Messages of senders with a speed get the moment at which they go, in the order they came into the outbox."""
    with transaction.atomic():
        now = clock.now()
        waiting = Message.objects.filter(account=account, state=State.QUEUED, paced=False, next_try_at__lte=now)
        if "" not in care.pace:
            waiting = waiting.filter(sender__in=care.pace)
        # Buckets before messages, always: whoever holds a sender's bucket gives out its tokens.
        senders = sorted(set(waiting.order_by().values_list("channel", "sender")[:10_000]))
        if not senders:
            return 0
        rows = [Bucket(account=account, channel=channel, sender=sender) for channel, sender in senders]
        Bucket.objects.bulk_create(rows, ignore_conflicts=True)
        buckets = {
            (one.channel, one.sender): one
            for one in Bucket.objects.select_for_update().filter(account=account).order_by("id")
        }
        messages = list(waiting.order_by("next_try_at", "id").select_for_update(skip_locked=True)[: 5 * BATCH])
        for message in messages:
            pace = care.pace.get(message.sender) or care.pace[""]
            bucket = buckets.get((message.channel, message.sender))
            if bucket is None:  # a sender that came in meanwhile
                continue
            tokens, message.next_try_at = Tokens(bucket.full_at).take(pace, now)
            bucket.full_at, message.paced = tokens.full_at, True
        Message.objects.bulk_update(messages, ["next_try_at", "paced"], batch_size=1_000)
        Bucket.objects.bulk_update(buckets.values(), ["full_at"])
        return len(messages)


@transaction.atomic
def _lease(account: Account, care: Care) -> list[Message]:
    due = leasing.due(Message.objects.select_related("by"), account)
    due = due.exclude(_LOOKED_AT, state=State.QUEUED, purpose="marketing")
    for unheard in _unheard:
        due = due.exclude(unheard, state=State.QUEUED, enrolment_id__isnull=False)
    if care.pace:
        slow = Q(paced=False) if "" in care.pace else Q(paced=False, sender__in=care.pace)
        due = due.exclude(slow, state=State.QUEUED)
    messages = list(due[: _most()])
    leasing.take(messages, LEASE)
    for message in messages:
        if message.handed_at is not None:
            _settle(message, State.UNCERTAIN, UNCERTAIN)
    return messages


def _most() -> int:
    """How many messages are leased at a time."""
    return BATCH if all(carrier_for(channel).knows_keys for channel in CHANNELS) else BATCH_WITHOUT_KEYS


def _hand_over(account: Account, carrier: Carrier, given: Sequence[tuple[Message, Parcel]]) -> list[Answer]:
    if carrier.knows_keys:
        try:
            answers = carrier.hand_over([one for _, one in given])
        except Exception as error:  # of a batch with keys everything may be handed over again
            log.exception("the carrier broke off", extra={"account": account.slug})
            answers = [Answer("unavailable", f"{type(error).__name__}: {error}")] * len(given)
        for (message, _), answer in zip(given, answers, strict=True):
            _note(message, answer)
        return answers
    answers = []
    for message, one in given:
        # Written down before, and by itself: whoever finds it after a crash knows that it may have gone.
        if not Message.objects.filter(id=message.id, state=State.SENDING, attempts=message.attempts).update(
            handed_at=timezone.now()
        ):
            continue
        try:
            [answer] = carrier.hand_over([one])
        except Exception as error:
            log.exception("the carrier broke off", extra={"account": account.slug})
            answer = Answer("unknown", f"{type(error).__name__}: {error}")
        answers.append(answer)
        _note(message, answer)
    return answers


def _note(message: Message, answer: Answer) -> None:
    match answer.did:
        case "taken":
            message.state, message.sent_at, message.leased_until = State.SENT, clock.now(), None
            message.reason = ""
        case "refused":
            _settle(message, State.FAILED, answer.reason)
        case "unknown":
            _settle(message, State.UNCERTAIN, answer.reason or UNCERTAIN)
        case "unavailable":
            _try_again(message, answer.reason)
        case "away":
            _try_again(message, answer.reason, AWAY)


def _settle(message: Message, state: State, reason: str) -> None:
    message.state, message.reason, message.leased_until = state, reason[:300], None
    message.settled_at = clock.now() if state != State.UNCERTAIN else None


def _try_again(message: Message, reason: str, for_long: timedelta = timedelta()) -> None:
    """Later; given up after MOST_ATTEMPTS, and not before it has waited `for_long`."""
    message.handed_at = None
    if message.attempts >= MOST_ATTEMPTS and clock.now() - message.queued_at >= for_long:
        _settle(message, State.FAILED, f"not taken after {message.attempts} tries: {reason}")
        return
    message.state, message.leased_until = State.QUEUED, None
    message.next_try_at = leasing.later(clock.now(), message.attempts)
    message.reason = reason[:300]


@transaction.atomic
def _write(account: Account, messages: Sequence[Message]) -> None:
    """Only what is still ours to write: a receipt may have been quicker, another worker may hold the lease."""
    written = {
        row[0]
        for row in sql.rows(  # only while it is leased as it was: as many conditions as rows
            """
            UPDATE messaging_message AS m
               SET state = u.state, reason = u.reason, leased_until = NULL, next_try_at = u.next_try_at,
                   sent_at = u.sent_at, settled_at = u.settled_at,
                   handed_at = CASE WHEN u.state = 'queued' THEN NULL ELSE m.handed_at END
              FROM unnest(%s::bigint[], %s::int[], %s::text[], %s::text[], %s::timestamptz[], %s::timestamptz[],
                          %s::timestamptz[]) AS u (id, attempts, state, reason, next_try_at, sent_at, settled_at)
             WHERE m.id = u.id AND m.state = 'sending' AND m.attempts = u.attempts
            RETURNING m.id
            """,
            [
                [m.id for m in messages],
                [m.attempts for m in messages],
                [str(m.state) for m in messages],
                [m.reason for m in messages],
                [m.next_try_at for m in messages],
                [m.sent_at for m in messages],
                [m.settled_at for m in messages],
            ],
        )
    }
    touch(account.id, [m.id for m in messages if m.id in written and m.state == State.SENT])
    told = (State.FAILED, State.CANCELLED, State.UNCERTAIN)
    record(
        account,
        [
            Happened(
                f"message.{m.state}",
                m.contact_id,
                about(m, reason=m.reason),
                Cause(actor=m.by, enrolment_id=m.enrolment_id),
            )
            for m in messages
            if m.id in written and m.state in told
        ],
    )
