"""What people of the team do with those who are inside: move them to another line, end their wait, pause and resume.

Each leaves a reason in the enrolment's story, and an event on the stream. The rows are locked first: a batch of the
engine that holds one finishes before, and what is decided here is decided about what it left.
"""

from collections.abc import Callable, Sequence
from datetime import datetime

from django.db import transaction

from bluffside.core.workflow.moving import sent_to
from bluffside.server import sql
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake
from bluffside.server.workflows.models import Enrolment, EnrolmentReasons
from bluffside.server.workflows.versions import program_of

BATCH = 2_000
FIELDS = ["place", "arrived_at", "until", "listens", "round", "rest", "due_at", "paused_at"]


class CannotHandle(ValueError):
    """Why nothing was done, in words."""


Change = Callable[[Enrolment, datetime], str]  # changes the row, answers the sentence; empty: nothing to do here


def move(account: Account, ids: Sequence[int], to: str, why: str, by: Person) -> int:
    """Sends them to a line of their version, where they begin at once, whether or not they have been there; answers
    how many. Those whose version does not have the line stay where they are. Raises CannotHandle when none has."""

    def change(row: Enrolment, now: datetime) -> str:
        program = program_of(row.version_id)
        if to not in program.nodes:
            return ""
        sent = sent_to(row.state, program, to, now)
        row.place, row.arrived_at, row.until, row.listens, row.round = to, None, now, False, sent.round
        row.rest = sent.rest()
        return f"Moved here by {by.name}: {program.step(to).describe()}"

    count = _each(account, ids, change, "enrolment.sent", why, by)
    if not count and ids:
        raise CannotHandle("Nobody was moved: the versions they are inside of do not have this line.")
    return count


def skip(account: Account, ids: Sequence[int], why: str, by: Person) -> int:
    """Ends their waits as if the time had come; answers how many waited."""

    def change(row: Enrolment, now: datetime) -> str:
        if row.until is None or row.until <= now:
            return ""
        row.until = now
        return f"The wait was ended by {by.name}."

    return _each(account, ids, change, "enrolment.skipped", why, by)


def pause(account: Account, ids: Sequence[int], why: str, by: Person) -> int:
    """Nothing happens to them until they are resumed; what reaches them waits. Answers how many."""

    def change(row: Enrolment, now: datetime) -> str:
        if row.paused_at is not None:
            return ""
        row.paused_at = now
        return f"Paused by {by.name}."

    return _each(account, ids, change, "enrolment.paused", why, by)


def resume(account: Account, ids: Sequence[int], why: str, by: Person) -> int:
    """Goes on: what came due, or reached them, meanwhile happens now; answers how many."""

    def change(row: Enrolment, now: datetime) -> str:
        if row.paused_at is None:
            return ""
        row.paused_at = None
        return f"Goes on, by {by.name}."

    return _each(account, ids, change, "enrolment.resumed", why, by)


@transaction.atomic
def _each(account: Account, ids: Sequence[int], change: Change, kind: str, why: str, by: Person) -> int:
    now = clock.now()
    why = why.replace("\0", "").strip()[:180]
    done = 0
    for some in sql.chunks(sorted(set(ids)), BATCH):
        inside = Enrolment.objects.filter(account=account, id__in=some, ended_at=None).order_by("id")
        rows, turns, happened = [], [], []
        for row in inside.select_for_update(of=("self",)).select_related("workflow"):
            said = change(row, now)
            if not said:
                continue
            row.due_at = None if row.paused_at or row.fault else now
            reason = {"step": row.place, "sentence": f"{said} {why}".strip(), "values": {}}
            turns.append(EnrolmentReasons(account=account, enrolment=row, at=now, steps=[], reasons=[reason]))
            data = {"workflow": row.workflow_id, "name": row.workflow.name, "why": why}
            happened.append(Happened(kind, row.contact_id, data, Cause(actor=by, enrolment_id=row.id)))
            rows.append(row)
        Enrolment.objects.bulk_update(rows, FIELDS, batch_size=BATCH)
        EnrolmentReasons.objects.bulk_create(turns)
        record(account, happened)
        done += len(rows)
    wake("advance")
    return done
