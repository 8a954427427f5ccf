"""The engine's batches: due enrolments of an account are advanced by the core, and its decisions carried out.

One batch is one transaction: enrolments and the contacts they are about are claimed with SKIP LOCKED, so that any
number of workers share the work and no two decide about one person at a time; who has something in hand that is not
handed on yet is left for the next batch, so that nobody is decided about unheard (core.engine.batch); facts are loaded for all of them at
once; each is advanced by the pure core; what came of it is written with one statement a kind (applying_effects.py); then
all of it commits, or none. An enrolment that raises is set aside with its reason, and the others go on. Where the
database refuses the batch, its enrolments are gone through one by one, and the one it refuses is set aside.
"""

import json
import logging
from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any, NamedTuple

from django.db import OperationalError, transaction

from bluffside.core.care.limits import Waiting, turn_order
from bluffside.core.conditions import Need
from bluffside.core.engine.batch import in_order
from bluffside.core.engine.signals import Happened, Joined, Removed, Replied
from bluffside.core.engine.signals import Signal as CoreSignal
from bluffside.core.engine.state import State
from bluffside.core.facts import Facts
from bluffside.core.steps.speaking import Speaking
from bluffside.server import sql
from bluffside.server.events.stream import core_event
from bluffside.server.people.changes import Changed
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.workflows.applying_effects import carry_out
from bluffside.server.workflows.batch import Advanced, Batch
from bluffside.server.workflows.bookings import Bookings
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import Enrolment, Signal
from bluffside.server.workflows.rotation import Rotations
from bluffside.server.workflows.versions import program_of

BATCH = 1_000
log = logging.getLogger("bluffside.engine")

# Rows of two tables are locked, each in its own way, and what is locked is passed over: the ORM has one way for all.
CLAIM = """
SELECT e.id, e.workflow_id, w.name, e.version_id, e.contact_id, c.responsible_id, e.why, e.about::text, e.begun,
       e.due_at, e.joined_at, e.place, e.arrived_at, e.until, e.listens, e.round, e.ended, e.by, e.depth, e.rest::text,
       e.paused_at IS NOT NULL
  FROM workflows_enrolment e
  JOIN people_contact c ON c.id = e.contact_id
  JOIN workflows_workflow w ON w.id = e.workflow_id
 WHERE e.account_id = %s AND e.due_at <= %s {narrow}
   AND NOT EXISTS (SELECT FROM events_pending p WHERE p.contact_id = e.contact_id AND p.fault = '')
 ORDER BY e.due_at, e.id
 LIMIT %s
   FOR UPDATE OF e SKIP LOCKED
   FOR NO KEY UPDATE OF c SKIP LOCKED
"""


def advance_batch(account: Account, limit: int = BATCH) -> int:
    """Advances the account's enrolments that have been due longest; answers how many were looked at."""
    try:
        return _batch(account, limit)
    except OperationalError:  # the database is away, or two got in each other's way: nobody's fault
        raise
    except Exception:
        log.exception("a batch is gone through one by one", extra={"account": account.slug})
    due = Enrolment.objects.filter(account=account, due_at__lte=clock.now()).order_by("due_at", "id")
    ids = list(due.values_list("id", flat=True)[:limit])
    for id in ids:
        try:
            _batch(account, 1, id)
        except OperationalError:
            raise
        except Exception as error:  # noqa: BLE001  # told to a person at the enrolment
            _set_aside(account, {id: error})
    return len(ids)


@transaction.atomic
def _batch(account: Account, limit: int, only: int | None = None) -> int:
    now = clock.now()
    narrow = "AND e.id = %s" if only else ""
    parameters = [account.id, now, *([only] if only else []), limit]
    ones = [_advanced(Claimed(*row)) for row in sql.rows(CLAIM.format(narrow=narrow), parameters)]
    if not ones:
        return 0
    needs: frozenset[Need] = frozenset().union(*(program_of(one).needs for one in {o.version_id for o in ones}))
    known = load_facts(account, [one.contact_id for one in ones], needs, now, in_life=True)
    bookings = Bookings(account)
    if "free" in needs:
        known = {id: bookings.known_to(facts) for id, facts in known.items()}
    before = dict(known)
    signals = _signals([one.id for one in ones])
    done, faults = [], {}
    turns = Rotations(account)
    for one in sorted(ones, key=_in_fair_order):
        try:
            known[one.contact_id] = _play(one, known[one.contact_id], signals.get(one.id, ()), now, turns, bookings)
        except Exception as error:
            log.exception("an enrolment is set aside", extra={"account": account.slug, "enrolment": one.id})
            faults[one.id] = error
        else:
            done.append(one)
    changed = [Changed(id, before[id].contact, facts.contact) for id, facts in known.items() if facts is not before[id]]
    turns.write()
    carry_out(Batch(account, now, done, changed), known)
    played = [one.id for one in done if one.id in signals]
    if played:
        Signal.objects.filter(enrolment__any=set(played)).delete()
    _set_aside(account, faults)
    return len(ones)


class Claimed(NamedTuple):
    """A row of CLAIM; `about` and `rest` are JSON as text."""

    id: int
    workflow_id: int
    workflow: str
    version_id: int
    contact_id: int
    responsible_id: int | None
    why: str
    about: str
    begun: bool
    due_at: datetime
    joined: datetime
    place: str
    arrived: datetime | None
    until: datetime | None
    listens: bool
    round: int
    ended: str
    by: str
    depth: int
    rest: str
    paused: bool


def _advanced(row: Claimed) -> Advanced:
    state = State(
        row.joined, row.place, row.arrived, row.until, row.listens, row.round, row.ended, by=row.by, depth=row.depth
    )
    if row.rest != "{}":
        state = state.with_rest(json.loads(row.rest))
    return Advanced(
        row.id, row.workflow_id, row.workflow, row.version_id, row.contact_id, row.responsible_id, row.why,
        json.loads(row.about), row.begun, row.due_at, state, was_ended=bool(row.ended), paused=row.paused,
    )  # fmt: skip


def _in_fair_order(one: Advanced) -> tuple[datetime, tuple[int, datetime, str]]:
    """What is due first comes first; of what is due together, whose message waits, by the rule of care.limits."""
    node = program_of(one.version_id).nodes.get(one.state.place)
    purpose = node.step.purpose if node and isinstance(node.step, Speaking) else "service"
    first = one.state.arrived or one.state.joined
    return one.due_at, turn_order(Waiting(purpose, first, f"{one.id:020}"))


def _signals(ids: Sequence[int]) -> Mapping[int, list[tuple[str, str, dict[str, Any], datetime]]]:
    """What has reached each enrolment, in the order it happened: kind, kind of event, data, instant."""
    found: dict[int, list[tuple[str, str, dict[str, Any], datetime]]] = defaultdict(list)
    rows = Signal.objects.filter(enrolment__any=set(ids)).order_by("event_id")
    for id, kind, event_kind, data, at in rows.values_list("enrolment_id", "kind", "event_kind", "data", "at"):
        found[id].append((kind, event_kind, data, at))
    return found


def _play(
    one: Advanced,
    facts: Facts,
    signals: Sequence[tuple[str, str, dict[str, Any], datetime]],
    now: datetime,
    turns: Rotations,
    bookings: Bookings,
) -> Facts:
    """The enrolment's part of the batch; the facts as they are after it."""
    program = program_of(one.version_id)
    # Who is paused hears nothing but that they are to leave.
    heard = [_core_signal(*signal) for signal in signals if not one.paused or signal[0] == "removed"]
    joined = None if one.begun else Joined(one.why, one.about)
    given = ((signal, False) for signal in heard) if one.paused else in_order(one, heard, now, joined)
    for signal, more in given:
        facts = one.advance(program, facts, signal, now, turns, bookings, more)
    return facts


def _core_signal(kind: str, event_kind: str, data: dict[str, Any], at: datetime) -> CoreSignal:
    if kind == "removed":
        return Removed(data["why"])
    if kind == "reply":
        return Replied(data["text"], data["channel"], data.get("message", ""), data.get("reply", 0))
    return Happened(core_event(event_kind, at, data, data.get("by", "")))


def _set_aside(account: Account, faults: Mapping[int, Exception]) -> None:
    for id, error in faults.items():
        Enrolment.objects.filter(account=account, id=id).update(fault=_words(error), due_at=None)


def _words(error: Exception) -> str:
    """The core's own errors are sentences; of others the kind is told, too."""
    said = str(error) if type(error).__module__.startswith("bluffside.") else f"{type(error).__name__}: {error}"
    return said.replace("\0", "")[:2_000]
