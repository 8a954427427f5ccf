"""Recording, handing on.

A service records what happened in the transaction of the change. What somebody in the account listens to is then
handed on once: the subscribers' writes and the removal of the note that it waits commit together. One worker at a
time hands on an account's events, in their order.
"""

import json
import logging
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from itertools import zip_longest
from typing import Any

from django.db import OperationalError, transaction
from django.db.models import F, Func, JSONField, Value

from bluffside.core.events import SUBJECTS
from bluffside.core.events import Event as CoreEvent
from bluffside.server import sql
from bluffside.server.events.counting import touched_by
from bluffside.server.events.models import Event, Heard, Pending
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake

BATCH = 500
BEGINNING = datetime(1970, 1, 1, tzinfo=UTC)
LONGEST_HISTORY = 2_000  # events of one contact that a decision looks back on
log = logging.getLogger("bluffside.events")


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


@dataclass(frozen=True, slots=True)
class Recorded:
    """An event as it is handed on. `by` is the name of the member who did it."""

    id: int
    kind: str
    contact_id: int | None
    at: datetime
    data: dict[str, Any]
    by: str
    enrolment_id: int | None
    depth: int

    def as_core(self) -> CoreEvent:
        return core_event(self.kind, self.at, self.data, self.by)


Subscriber = Callable[[Account, Sequence[Recorded]], None]
_subscribers: list[Subscriber] = []


def subscribe(subscriber: Subscriber) -> None:
    """Have events handed over, at most one of each contact at a time. Called when apps are ready; the order counts."""
    _subscribers.append(subscriber)


def listen(account: Account, kinds: Iterable[str]) -> None:
    """From now on, events of these kinds are handed on in this account."""
    Heard.objects.bulk_create([Heard(account=account, kind=kind) for kind in set(kinds)], ignore_conflicts=True)


def is_heard(account: Account, kind: str) -> bool:
    return Heard.objects.filter(account=account, kind=kind).exists()


def record(account: Account, happened: Iterable[Happened]) -> list[int]:
    """Writes events in the transaction at hand, all at the clock's now; answers their ids."""
    events = list(happened)
    if not events:
        return []
    now = clock.now()
    heard = set(Heard.objects.filter(account=account).values_list("kind", flat=True))
    ids: list[int] = []
    for some in sql.chunks(events, 5_000):
        # The event and the note that it waits in one statement, in the order given: this is the way of every write.
        made = sql.rows(
            """
            WITH made AS (
                INSERT INTO events_event (account_id, kind, contact_id, at, data, actor_id, enrolment_id, depth)
                SELECT %s, u.kind, u.contact_id, %s, u.data::jsonb, u.actor_id, u.enrolment_id, u.depth
                  FROM unnest(%s::text[], %s::bigint[], %s::text[], %s::bigint[], %s::bigint[], %s::int[])
                       WITH ORDINALITY AS u (kind, contact_id, data, actor_id, enrolment_id, depth, n)
                 ORDER BY u.n
                RETURNING id, at, kind, contact_id
            ), waits AS (
                INSERT INTO events_pending (account_id, event_id, at, contact_id)
                SELECT %s, id, at, contact_id FROM made WHERE kind = ANY(%s)
            )
            SELECT id FROM made
            """,
            [
                account.id,
                now,
                [one.kind for one in some],
                [one.contact_id for one in some],
                [sql.to_json(one.data) for one in some],
                [one.cause.actor.id if one.cause.actor else None for one in some],
                [one.cause.enrolment_id for one in some],
                [one.cause.depth for one in some],
                account.id,
                list(heard),
            ],
        )
        ids += [row[0] for row in made]
    touched_by(account.id, events)
    if any(one.kind in heard for one in events):
        wake("dispatch")
    return ids


def hold(account: Account, ids: Sequence[int], until: datetime) -> None:
    """Has events that were recorded in the transaction at hand wait: until then they can be taken back. Nothing is decided
    about their contacts, and nothing goes out to them by a workflow, before they are handed on."""
    Pending.objects.filter(account=account, event_id__in=ids).update(not_before=until)


def take_back(account: Account, kind: str, contact_id: int, **data: int) -> bool:
    """Has the newest event of a contact of that kind and data never have happened; False when it was handed on already."""
    sql.lock("dispatch", account.id)
    theirs = Event.objects.filter(account=account, contact_id=contact_id, kind=kind, data__contains=data)
    found = theirs.order_by("-at", "-id").first()
    if found is None:
        return False
    unheard = Pending.objects.filter(account=account, event_id=found.id).delete()[0]
    if not unheard and Heard.objects.filter(account=account, kind=kind).exists():
        return False
    found.delete()
    touched_by(account.pk, [found])
    return True


def record_alike(
    account: Account, kind: str, contact_ids: Sequence[int], data: dict[str, Any], cause: Cause = WORLD
) -> None:
    """The same thing that happened to many contacts at once, written without a row's worth of work each here."""
    if not contact_ids:
        return
    heard = is_heard(account, kind)
    # As above, for many people to whom the same happens: what tells of it is sent once.
    waits = "INSERT INTO events_pending (account_id, event_id, at, contact_id) SELECT account_id, id, at, contact_id FROM made"
    sql.execute(
        f"""
        WITH made AS (
            INSERT INTO events_event (account_id, kind, contact_id, at, data, actor_id, enrolment_id, depth)
            SELECT %s, %s, u.id, %s, %s::jsonb, %s, %s, %s FROM unnest(%s::bigint[]) AS u (id)
            RETURNING account_id, id, at, contact_id
        )
        {waits if heard else "SELECT count(*) FROM made"}
        """,  # noqa: S608  # no words but ours
        [account.id, kind, clock.now(), sql.to_json(data), cause.actor.id if cause.actor else None,
         cause.enrolment_id, cause.depth, list(contact_ids)],
    )  # fmt: skip
    if heard:
        wake("dispatch")


def call_anew(account: Account, kind: str, old: str, new: str) -> None:
    """What happened is told under the name that its subject (a form, a tag) has now, so that whatever looks back goes on
    counting it. `kind` is the key in an event's data. One pass over the account's events: this is done rarely."""
    kinds = [event for event, subject in SUBJECTS.items() if subject == kind]
    named = Event.objects.filter(account=account, kind__in=kinds, **{f"data__{kind}": old})
    to_new = Func(F("data"), Value({kind: new}, JSONField()), template="(%(expressions)s)", arg_joiner=" || ")
    named.update(data=to_new)


def dispatch_batch(account: Account, limit: int = BATCH) -> int:
    """Hands on the account's oldest waiting events; answers how many. One that cannot be handed on is laid aside with
    its reason, and those after it go on."""
    try:
        return _dispatch(account, limit)
    except OperationalError:  # the database is away, or two got in each other's way: nobody's fault
        raise
    except Exception:
        if limit > 1:
            log.exception("events are handed on one by one", extra={"account": account.slug})
            return _dispatch_one_by_one(account, limit)
        raise


def _dispatch_one_by_one(account: Account, limit: int) -> int:
    for number in range(limit):
        try:
            if not _dispatch(account, 1):
                return number
        except OperationalError:
            raise
        except Exception as error:
            log.exception("an event is laid aside", extra={"account": account.slug})
            with transaction.atomic():
                first = _waiting(account, 1)
                waiting = Pending.objects.filter(account=account, event_id__in=[one.id for one in first])
                waiting.update(fault=f"{type(error).__name__}: {error}"[:2_000])
    return limit


@transaction.atomic
def _dispatch(account: Account, limit: int) -> int:
    if not sql.try_lock("dispatch", account.id):
        return 0
    events = _waiting(account, limit)
    if not events:
        return 0
    by_contact: dict[int | None, list[Recorded]] = defaultdict(list)
    for event in events:
        by_contact[event.contact_id].append(event)
    for turn in zip_longest(*by_contact.values()):
        some = [event for event in turn if event]
        for subscriber in _subscribers:
            subscriber(account, some)
    Pending.objects.filter(account=account, event_id__any={event.id for event in events}).delete()
    wake("advance")  # whom they are about can be decided about now
    return len(events)


def _waiting(account: Account, limit: int) -> list[Recorded]:
    # Each event is looked for in its month alone, which a join by both columns tells the database.
    found = sql.rows(
        """
        SELECT e.id, e.kind, e.contact_id, e.at, e.data::text, coalesce(p.name, ''), e.enrolment_id, e.depth
          FROM (SELECT event_id, at FROM events_pending p WHERE account_id = %s AND fault = ''
                   -- What can still be taken back, and whatever came of its contact after it, waits.
                   AND NOT EXISTS (SELECT FROM events_pending b WHERE b.contact_id = p.contact_id
                                      AND b.not_before > %s AND b.event_id <= p.event_id)
                 ORDER BY event_id LIMIT %s) AS w
          JOIN events_event e ON e.id = w.event_id AND e.at = w.at
          LEFT JOIN practice_person p ON p.id = e.actor_id
         ORDER BY e.id
        """,
        [account.id, clock.now(), limit],
    )
    return [Recorded(id, kind, about, at, json.loads(data), *rest) for id, kind, about, at, data, *rest in found]


def retry_laid_aside(account: Account) -> int:
    """Lets events that could not be handed on be tried again; answers how many."""
    with transaction.atomic():
        count = Pending.objects.filter(account=account).exclude(fault="").update(fault="")
        wake("dispatch")
    return count


def history(
    account: Account, contact_ids: Sequence[int], kinds: Iterable[str] = SUBJECTS, since: datetime | None = None
) -> dict[int, tuple[CoreEvent, ...]]:
    """What happened to contacts, oldest first, as the core knows it."""
    found: dict[int, list[CoreEvent]] = defaultdict(list)
    # The newest of each contact, a look into one index each: without LATERAL all of a contact's past is sorted.
    for contact_id, kind, at, data, by in sql.rows(
        """
        SELECT e.contact_id, e.kind, e.at, e.data::text, coalesce(p.name, '')
          FROM unnest(%s::bigint[]) AS c (id)
          CROSS JOIN LATERAL (
               SELECT * FROM events_event
                WHERE contact_id = c.id AND account_id = %s AND kind = ANY(%s) AND at >= %s
                ORDER BY at DESC, id DESC LIMIT %s) AS e
          LEFT JOIN practice_person p ON p.id = e.actor_id
         ORDER BY e.at, e.id
        """,
        [list(contact_ids), account.id, list(kinds), since or BEGINNING, LONGEST_HISTORY],
    ):
        found[contact_id].append(core_event(kind, at, json.loads(data), by))
    return {contact_id: tuple(events) for contact_id, events in found.items()}


def core_event(kind: str, at: datetime, data: dict[str, Any], by: str = "") -> CoreEvent:
    """Moments in an event's data are text in the database and instants in the core."""
    for name in ("start", "goes"):
        if name in data and isinstance(data[name], str):
            data = data | {name: datetime.fromisoformat(data[name])}
    return CoreEvent(kind, at, data, by)
