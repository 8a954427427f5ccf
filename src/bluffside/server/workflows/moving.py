"""People inside an older version, moved to another one, with what changes for each place told beforehand.

The core says where everybody goes (core.workflow.moving). The rows are changed in the caller's transaction; who begins
at another line is due at once, and the engine goes on with them. Who has nothing left to come is taken out by it.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from django.db import transaction

from bluffside.core.engine.state import STAYS_FINISHED
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.moving import KEEPS_ITS_MOMENT, MOVED_TO_END, in_words, keeps_old_moment, move_of, moved
from bluffside.core.workflow.program import Program, compile_workflow
from bluffside.server import sql
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.practice import clock
from bluffside.server.practice.models import Person
from bluffside.server.practice.words import moment
from bluffside.server.wake import wake
from bluffside.server.workflows.models import Enrolment, EnrolmentReasons, Signal, Version, Workflow
from bluffside.server.workflows.signals import send
from bluffside.server.workflows.versions import program_of, published_document

BATCH = 2_000


@dataclass(frozen=True, slots=True)
class MoveAtPlace:
    """What moving means for those who stand at one line of one version: its sentence and the changes in sentences
    (none: they just stay there)."""

    version: int
    step: str
    where: str
    count: int
    changes: list[str]


def preview(workflow: Workflow, document: Document) -> list[MoveAtPlace]:
    """For everybody inside, by version and line, the fullest first."""
    new = compile_workflow(document)
    inside = Enrolment.objects.filter(workflow=workflow, ended_at=None)
    counts = Counter(
        (version, place, bool(finished))
        for version, place, finished in inside.values_list("version_id", "place", "rest__finished")
    )
    numbers = dict(Version.objects.filter(workflow=workflow).values_list("id", "number"))
    rows = []
    for (version_id, place, finished), count in counts.most_common():
        old = program_of(version_id)
        if finished and place in new.nodes:
            rows.append(MoveAtPlace(numbers[version_id], place, STAYS_FINISHED, count, []))
            continue
        at = place if place in old.nodes else old.first
        said = {step.id: step.describe() for step in walk(published_document(version_id).steps)}
        changes = in_words(move_of(old, new, at), new, old) if at else []
        rows.append(MoveAtPlace(numbers[version_id], place, said.get(place, "is about to begin"), count, changes))
    return rows


@transaction.atomic
def move_all(workflow: Workflow, to: Version, by: Person) -> int:
    """Moves everybody who is inside another version; answers how many."""
    ids = list(
        Enrolment.objects.filter(workflow=workflow, ended_at=None).exclude(version=to).values_list("id", flat=True)
    )
    new = program_of(to.id)
    return sum(_move(workflow, to, new, by, some) for some in sql.chunks(ids, BATCH))


def _move(workflow: Workflow, to: Version, new: Program, by: Person, ids: Sequence[int]) -> int:
    now, account, cause = clock.now(), workflow.account, Cause(actor=by)
    rows = list(Enrolment.objects.select_for_update().filter(id__in=ids, ended_at=None).order_by("id"))
    numbers = dict(workflow.versions.values_list("id", "number"))
    turns, leaving, happened = [], [], []
    for row in rows:
        after = moved(row.state, program_of(row.version_id), new, now)
        was = numbers[row.version_id]
        said = f"Moved from version {was} to version {to.number} by {by.name}."
        if after.ended:  # it keeps its place until the engine has written down why it ends
            leaving.append(row.id)
        else:
            was_in, row.version = row.version_id, to
            row.rest = after.rest() if row.begun else row.rest
            if after.place != row.place:
                said += f" Goes on at: {new.step(after.place).describe()}"
                row.place, row.arrived_at, row.until, row.listens = after.place, None, after.until, after.listens
                row.due_at = None if row.fault or row.paused_at else now
            elif row.until and keeps_old_moment(row.place, program_of(was_in), new):
                said += f" {KEEPS_ITS_MOMENT} Theirs is {moment(row.until, account.zone)}."
        reason = {"step": row.place, "sentence": said, "values": {}}
        turns.append(EnrolmentReasons(account=account, enrolment=row, at=now, steps=[row.place], reasons=[reason]))
        data = {"workflow": workflow.id, "name": workflow.name, "from": was, "to": to.number}
        happened.append(Happened("enrolment.moved", row.contact_id, data, cause))
    fields = ["version", "place", "arrived_at", "until", "listens", "rest", "due_at"]
    Enrolment.objects.bulk_update([row for row in rows if row.id not in leaving], fields, batch_size=BATCH)
    EnrolmentReasons.objects.bulk_create(turns)
    event_of = dict(zip((row.id for row in rows), record(account, happened), strict=True))
    why = sql.to_json({"why": MOVED_TO_END})
    told = ("enrolment.moved", why, now)
    send(account, [(account.id, id, event_of[id], Signal.Kind.REMOVED, *told) for id in leaving])
    wake("advance")
    return len(rows)
