"""Recording, subscribing, dispatching."""

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction

from bluffside.server.events.models import Event
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake

BATCH = 500
Subscriber = Callable[[Sequence[Event]], None]
_subscribers: dict[str, list[Subscriber]] = defaultdict(list)


@dataclass(frozen=True, slots=True)
class Cause:
    """Who or what made a change: a person, an enrolment, or the world (neither)."""

    actor: Person | None = None
    enrolment_id: int | None = None
    depth: int = 0


WORLD = Cause()


@dataclass(frozen=True, slots=True)
class Happened:
    """One thing to record."""

    kind: str
    contact_id: int | None = None
    data: dict[str, Any] = field(default_factory=dict)
    cause: Cause = WORLD


def subscribe(kind: str, subscriber: Subscriber) -> None:
    """Have events of a kind handed over, in batches, within one transaction each. Called when apps are ready."""
    _subscribers[kind].append(subscriber)


def record(account: Account, happened: Iterable[Happened]) -> list[Event]:
    """Writes events in the transaction at hand, all at the clock's now."""
    now = clock.now()
    events = [
        Event(
            account=account,
            kind=one.kind,
            contact_id=one.contact_id,
            at=now,
            data=one.data,
            actor=one.cause.actor,
            enrolment_id=one.cause.enrolment_id,
            depth=one.cause.depth,
            dispatched=one.kind not in _subscribers,
        )
        for one in happened
    ]
    Event.objects.bulk_create(events, batch_size=2_000)
    if any(not event.dispatched for event in events):
        wake("dispatch")
    return events


@transaction.atomic
def dispatch_batch() -> int:
    """Hands the oldest undispatched events to their subscribers; answers how many."""
    waiting = Event.objects.filter(dispatched=False).select_related("account").order_by("id")
    events = list(waiting.select_for_update(skip_locked=True, of=("self",))[:BATCH])
    if not events:
        return 0
    by_kind: dict[str, list[Event]] = defaultdict(list)
    for event in events:
        by_kind[event.kind].append(event)
    for kind, of_kind in by_kind.items():
        for subscriber in _subscribers[kind]:
            subscriber(of_kind)
    Event.objects.filter(id__in=[event.id for event in events]).update(dispatched=True)
    return len(events)
