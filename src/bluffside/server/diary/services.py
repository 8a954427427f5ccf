"""Writes on tasks."""

from collections.abc import Sequence
from datetime import timedelta

from django.db import transaction

from bluffside.server.diary.models import Task
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person

TRY_AGAIN = timedelta(hours=3)
Outcome = Task.Outcome
OF_KIND = {
    Task.Kind.CALL: (Outcome.REACHED, Outcome.NO_ANSWER, Outcome.LEFT_MESSAGE, Outcome.DROPPED),
    Task.Kind.TO_DO: (Outcome.DONE, Outcome.DROPPED),
}


class CannotRecord(ValueError):
    """Why an outcome cannot be recorded, in words."""


def make(account: Account, tasks: Sequence[Task], cause_of: dict[str, Cause]) -> None:
    """Puts tasks on the list, in the transaction at hand; a key that is there already is left as it is."""
    known = set(Task.objects.filter(key__in=[task.key for task in tasks]).values_list("key", flat=True))
    fresh = [task for task in tasks if task.key not in known]
    Task.objects.bulk_create(fresh)
    record(
        account,
        [
            Happened(
                "task.made",
                task.contact_id,
                {"task": task.pk, "kind": task.kind, "title": task.title},
                cause_of[task.key],
            )
            for task in fresh
        ],
    )


@transaction.atomic
def record_outcome(task: Task, outcome: Outcome, by: Person, note: str = "") -> None:
    """A call nobody answered comes back some hours later while tries are left. Raises CannotRecord."""
    task = Task.objects.select_for_update().select_related("account").get(id=task.id)
    if task.done_at:
        raise CannotRecord("This was settled already.")
    if outcome not in OF_KIND[Task.Kind(task.kind)]:
        raise CannotRecord(f"“{outcome}” is not an outcome of this.")
    task.tried += 1
    task.outcome = outcome
    if outcome == Outcome.NO_ANSWER and task.tried < task.attempts:
        task.due_at = clock.now() + TRY_AGAIN
    else:
        task.done_at = clock.now()
    task.save()
    data = {
        "task": task.id,
        "kind": task.kind,
        "title": task.title,
        "outcome": outcome,
        "tried": task.tried,
        "of": task.attempts,
        "note": note.strip()[:1_000],
    }
    cause = Cause(actor=by, enrolment_id=task.enrolment_id)
    record(
        task.account, [Happened("task.tried" if task.done_at is None else "task.done", task.contact_id, data, cause)]
    )
