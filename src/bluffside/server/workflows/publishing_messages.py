"""Messages of the library made, named and published: other words go out only where everything that says them stands by it."""

from dataclasses import dataclass

from django.db import transaction

from bluffside.core.messages.merge import BadTemplate
from bluffside.core.rehearsal.scenarios import play_all
from bluffside.core.steps.speaking import Speaking
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import to_data
from bluffside.core.workflow.library import as_message, message_of, said_by, saying
from bluffside.core.workflow.program import GoesRoundTooOften, compile_workflow
from bluffside.server.events.stream import listen
from bluffside.server.messaging.models import Message
from bluffside.server.people import usages
from bluffside.server.people.queries import account_facts
from bluffside.server.practice import audit, clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.naming import free_name
from bluffside.server.workflows import writing
from bluffside.server.workflows.library import draft_of
from bluffside.server.workflows.models import Sort, Version, Workflow
from bluffside.server.workflows.signals import heard_by
from bluffside.server.workflows.versions import published_document, read_anew


@dataclass(frozen=True, slots=True)
class Objection:
    """Why a workflow that runs could not go on as it is with other words of a message."""

    workflow: str
    why: str


class Objected(ValueError):
    def __init__(self, objections: list[Objection]) -> None:
        super().__init__(f"“{objections[0].workflow}” says this message. {objections[0].why}")


def _free(account: Account, name: str, own: int = 0) -> str:
    return free_name(Workflow.written.filter(sort=Sort.MESSAGE), "message", account, name, own)


@transaction.atomic
def create(account: Account, name: str, line: Speaking, by: Person) -> Workflow:
    """A message that says what a line says. Raises NotAName."""
    document = as_message(_free(account, name), line)
    row = writing.create(account, document, by)
    row.sort = Sort.MESSAGE
    row.save(update_fields=["sort"])
    return row


@transaction.atomic
def keep(account: Account, name: str, line: Speaking, by: Person) -> Workflow:
    """The message of a line, kept in the library and published at once, so that the line can say it. Raises NotAName, CannotPublish."""
    row = create(account, name, line, by)
    publish(row, row.revision, by)
    return row


def objections(account: Account, name: str, line: Speaking) -> list[Objection]:
    """What would go wrong in the workflows that run and say the message, and does not go wrong by what it says now."""
    known, own = writing.check_facts(account), account_facts(account)
    found = []
    for workflow in Workflow.objects.filter(account=account, archived_at=None, published__isnull=False).order_by(
        "name"
    ):
        now = published_document(workflow.published_id or 0)
        if name not in dict(said_by(now)):
            continue
        new = saying(now, {name: line})
        had = {(one.code, one.step) for one in writing.all_checks(account, now, workflow, known)}
        for check in writing.all_checks(account, new, workflow, known):
            if check.severity == "error" and (check.code, check.step) not in had:
                found.append(Objection(workflow.name, check.sentence))
        failed = _failing(now, own)
        for scenario, why in _failing(new, own).items():
            if scenario not in failed:
                found.append(Objection(workflow.name, f"Its scenario “{scenario}” would not come true. {why}"))
    return found


def _failing(document: Document, own: object) -> dict[str, str]:
    try:
        return {one.scenario: one.failures[0] for one in play_all(document, own) if one.failures}  # type: ignore[arg-type]
    except (BadTemplate, GoesRoundTooOften):  # a check says so
        return {}


@transaction.atomic
def publish(row: Workflow, revision: int, by: Person) -> Version:
    """What lines say from now on, those inside of running versions included; what is in the outbox keeps its words. Raises Objected, and
    what `writing.publish` does."""
    account = row.account
    line = message_of(draft_of(row))
    if line and (found := objections(account, row.name, line)):
        raise Objected(found)
    version = writing.publish(row, revision, by)
    read_anew(account)
    for workflow in Workflow.objects.filter(account=account, archived_at=None, published__isnull=False):
        document = published_document(workflow.published_id or 0)
        if line and row.name in dict(said_by(document)):
            new = saying(document, {row.name: line})
            listen(account, heard_by(compile_workflow(new), new))
    return version


@transaction.atomic
def give_name(row: Workflow, new: str, by: Person) -> None:
    """Everywhere at once: in drafts and in versions that run, in conditions, and in what has happened. Raises NotAName."""
    account, old = row.account, row.name
    new = _free(account, new, row.pk)
    if new == old:
        return
    usages.rename(account, "message", old, new, by)
    row = Workflow.written.select_for_update().get(pk=row.pk)
    if line := message_of(draft_of(row)):
        row.draft = to_data(as_message(new, line))
    row.name, row.revision = new, row.revision + 1
    row.changed_at, row.changed_by = clock.now(), by
    row.save(update_fields=["draft", "name", "revision", "changed_at", "changed_by"])
    Message.objects.filter(account=account, name=old).update(name=new)
    read_anew(account)
    audit.note(account, by, "publishing", [audit.Noted("a message", f"“{old}”", f"“{new}”")])
