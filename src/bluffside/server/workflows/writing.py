"""Writing workflows: drafts that save themselves, publishing, bringing files in."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta

from django.db import transaction

from bluffside.core.messages.closing import closing
from bluffside.core.workflow.checks import Check, can_publish, check
from bluffside.core.workflow.differences import differences
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import to_data
from bluffside.core.workflow.house import House, Trouble
from bluffside.core.workflow.library import message_of
from bluffside.server.events.stream import Cause, Happened, listen, record
from bluffside.server.messaging.carrier import out_of_order
from bluffside.server.messaging.models import MailFile
from bluffside.server.people.models import Field, Tag
from bluffside.server.people.queries import account_facts
from bluffside.server.people.signed import some_preferences_link
from bluffside.server.practice import audit, clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.workflows import dated, names
from bluffside.server.workflows.audience import people_of
from bluffside.server.workflows.library import draft_of, words_of
from bluffside.server.workflows.models import Sort, Start, Version, Workflow
from bluffside.server.workflows.signals import heard_by
from bluffside.server.workflows.versions import program_of, published_document, reading

USUAL = 20.0  # of a hundred, as long as nothing is known
FEWEST_KNOWN = 30

__all__ = [
    "CannotPublish", "ChangedElsewhere", "NoMessage", "all_checks", "archive", "check_facts", "copy", "create", "draft_of",
    "publish", "save_draft", "set_colour", "set_open", "unpublished_changes",
]  # fmt: skip


class ChangedElsewhere(Exception):
    """Somebody else saved the draft since; nothing was overwritten."""


class NoMessage(ValueError):
    """What was to be kept as a message is not one line that speaks."""


class CannotPublish(ValueError):
    """The errors that stand in the way."""

    def __init__(self, checks: list[Check]) -> None:
        super().__init__(" ".join(one.sentence for one in checks if one.severity == "error"))


@dataclass(frozen=True, slots=True)
class CheckFacts:
    """What checks know of an account besides its people: the published workflows by id, the names of its drafts, tags,
    fields, forms, sources of leads and types of appointment; `clients`: the practice's other accounts; `files`: digests of those that emails can
    carry."""

    published: Mapping[int, Document]
    drafts: frozenset[str]
    tags: frozenset[str]
    fields: frozenset[str]
    forms: frozenset[str]
    sources: frozenset[str]
    types: frozenset[str]
    out_of_order: Mapping[tuple[str, str], Trouble]
    clients: frozenset[str]
    files: frozenset[str]


def check_facts(account: Account) -> CheckFacts:
    standing = Workflow.objects.filter(account=account, archived_at=None, sort=Sort.SCRIPT)
    published = standing.filter(published__isnull=False)
    drafts = frozenset(standing.filter(published=None).values_list("name", flat=True))
    tags = frozenset(Tag.objects.filter(account=account).values_list("name", flat=True))
    fields = frozenset(Field.objects.filter(account=account).values_list("name", flat=True))
    documents = {one.id: published_document(one.published_id or 0) for one in published}
    above = names.from_above(account)
    tags |= above.get("tag", {}).keys()
    return CheckFacts(
        documents, drafts, tags, fields, frozenset(above.get("form", ())), frozenset(above.get("source", ())),
        frozenset(above.get("appointment", ())), out_of_order(account), _clients(account),
        frozenset(MailFile.objects.filter(account=account).values_list("digest", flat=True)),
    )  # fmt: skip


def _clients(account: Account) -> frozenset[str]:
    """The names of the practice's other accounts."""
    others = Account.objects.filter(practice=account.practice_id).exclude(pk=account.pk)
    return frozenset(others.values_list("name", flat=True))


def all_checks(
    account: Account, document: Document, own: Workflow | None = None, known: CheckFacts | None = None
) -> list[Check]:
    """The core's checks, knowing the account's care, its other published workflows, its tags and its people. Who looks
    at several workflows gives what is `known` around them."""
    care, known = account_facts(account).care, known or check_facts(account)
    others = tuple(one for id, one in known.published.items() if own is None or id != own.id)
    people = people_of(account, document)
    arrivals, usual = _coming_in(own) if own and document.entry.hold_back else (None, USUAL)
    house = House(
        account.zone,
        account.name,
        care,
        others,
        known.drafts,
        clock.now(),
        tags=known.tags,
        fields=known.fields,
        details=frozenset(account_facts(account).details),
        forms=known.forms,
        sources=known.sources,
        types=known.types,
        booking_pages=frozenset(account.booking_pages),
        out_of_order=known.out_of_order,
        postal_address=account.postal_address,
        clients=known.clients,
        files=known.files,
        library=frozenset(words_of(account.id)),
        closing=closing("text", "", some_preferences_link(account.id), care),
        people=people,
        arrivals=arrivals,
        usual=usual,
    )
    return check(document, house)


def _coming_in(workflow: Workflow) -> tuple[float, float]:
    """How many come in a month, and how many of a hundred reach its aim, as far as that is known."""
    now = clock.now()
    rows = workflow.enrolments.filter(joined_at__gt=now - timedelta(days=365))
    of, reached = rows.count(), rows.exclude(reached_at=None).count()
    usual = 100 * reached / of if of >= FEWEST_KNOWN else USUAL
    return rows.filter(joined_at__gt=now - timedelta(days=90)).count() / 3, usual


def create(account: Account, document: Document, by: Person) -> Workflow:
    return Workflow.objects.create(
        account=account, name=document.name, draft=to_data(document), changed_at=clock.now(), changed_by=by
    )


@transaction.atomic
def save_draft(workflow: Workflow, document: Document, revision: int, by: Person) -> Workflow:
    """Keeps a draft that was written on top of `revision`. Raises ChangedElsewhere when that is not the newest."""
    row = Workflow.written.select_for_update().get(id=workflow.id)
    if row.revision != revision:
        raise ChangedElsewhere
    if row.sort == Sort.MESSAGE:  # it has another name by an act of its own, everywhere at once
        document = document.model_copy(update={"name": row.name})
        if len(document.steps) != 1 or (line := message_of(document)) is None or line.library:
            raise NoMessage("A message is one line that speaks. Nothing was changed.")
    row.draft, row.name = to_data(document), document.name
    row.revision += 1
    row.changed_at, row.changed_by = clock.now(), by
    row.save(update_fields=["draft", "name", "revision", "changed_at", "changed_by"])
    return row


def copy(workflow: Workflow, by: Person) -> Workflow:
    """A draft like this one's, without its people and versions, under a name that is free."""
    document = draft_of(workflow)
    taken = set(Workflow.objects.filter(account=workflow.account).values_list("name", flat=True))
    tried = (f"{document.name[:108]}, copy{number}" for number in ("", *(f" {n}" for n in range(2, 1_000))))
    name = next(one for one in tried if one not in taken)
    made = create(workflow.account, document.model_copy(update={"name": name}), by)
    made.colour = workflow.colour
    made.save(update_fields=["colour"])
    return made


def set_colour(workflow: Workflow, colour: str) -> None:
    workflow.colour = colour
    workflow.save(update_fields=["colour"])


@transaction.atomic
def archive(workflow: Workflow, away: bool, by: Person) -> None:
    """Puts a workflow away, closed to newcomers (who is inside goes on), or takes it out again, still closed."""
    if away and workflow.open and workflow.published_id:
        set_open(workflow, False, by)
    workflow.archived_at = clock.now() if away else None
    workflow.save(update_fields=["archived_at"])
    kind = "workflow.archived" if away else "workflow.unarchived"
    record(workflow.account, [Happened(kind, None, {"workflow": workflow.id, "name": workflow.name}, Cause(actor=by))])
    said = "put away" if away else "taken out again"
    audit.note(workflow.account, by, "publishing", [audit.Noted(f"“{workflow.name}”", "", said)])


def unpublished_changes(workflow: Workflow) -> list[str]:
    """In sentences; empty when the draft is what runs, or nothing runs yet."""
    if workflow.published is None or (workflow.published.document == workflow.draft and not workflow.published.called):
        return []
    return differences(reading(workflow.published), draft_of(workflow))


@transaction.atomic
def publish(workflow: Workflow, revision: int, by: Person) -> Version:
    """Makes the draft the version that people enter from now on; who is inside finishes theirs.

    A message of the library is published by `publishing_messages`, which asks those that say it. Raises CannotPublish, and ChangedElsewhere when `revision` is not the draft that was looked at.
    """
    row = Workflow.written.select_for_update(of=("self",)).select_related("account").get(id=workflow.id)
    if row.revision != revision:
        raise ChangedElsewhere
    document = draft_of(row)
    checks = all_checks(row.account, document, row)
    if not can_publish(checks):
        raise CannotPublish(checks)
    last = row.versions.order_by("-number").values_list("number", flat=True).first() or 0
    version = Version.objects.create(
        account=row.account,
        workflow=row,
        number=last + 1,
        document=row.draft,
        published_at=clock.now(),
        published_by=by,
    )
    row.published, row.open = version, True
    row.save(update_fields=["published", "open"])
    row.starts.all().delete()
    Start.objects.bulk_create(
        Start(workflow=row, account=row.account, event_kind=kind, subject=subject)
        for start in document.starts
        for kind in start.listens_to
        for subject in start.subjects()
    )
    listen(row.account, heard_by(program_of(version.id), document))
    dated.begin(row)
    data = {"workflow": row.id, "name": row.name, "version": version.number}
    record(row.account, [Happened("workflow.published", None, data, Cause(actor=by))])
    audit.note(row.account, by, "publishing", [audit.Noted(f"“{row.name}”", "", f"version {version.number}")])
    return version


@transaction.atomic
def set_open(workflow: Workflow, open: bool, by: Person) -> None:
    """Closes a workflow to newcomers, or opens it again; who is inside goes on."""
    workflow.open = open
    workflow.save(update_fields=["open"])
    kind = "workflow.opened" if open else "workflow.closed"
    record(workflow.account, [Happened(kind, None, {"workflow": workflow.id, "name": workflow.name}, Cause(actor=by))])
    said = "open to newcomers" if open else "closed to newcomers"
    audit.note(workflow.account, by, "publishing", [audit.Noted(f"“{workflow.name}”", "", said)])
