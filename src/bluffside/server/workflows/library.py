"""The library of messages: what each says now, which lines say it, and letting other words go.

A version of a workflow names the message, not its words: lines that run say what is published of it. All processes notice by
`Account.names_changed`, as they do of other names (`versions`).
"""

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache

from django.db.models import Count

from bluffside.core.steps.speaking import Speaking
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import parse_workflow
from bluffside.core.workflow.library import message_of, said_by, saying
from bluffside.core.workflow.moving import to_come
from bluffside.server.practice import walls
from bluffside.server.practice.models import Account
from bluffside.server.workflows.models import Enrolment, Sort, Version, Workflow


def words_of(account_id: int) -> Mapping[str, Speaking]:
    """What the account's messages say that are published, by name."""
    read = _words if walls.is_settled(account_id) else _words.__wrapped__
    return read(account_id, walls.names_changed(account_id))


@lru_cache(maxsize=500)
def _words(account_id: int, names_changed: int) -> Mapping[str, Speaking]:
    rows = Version.objects.filter(account_id=account_id, workflow__sort=Sort.MESSAGE, id__in=_published(account_id))
    found = {one.workflow.name: message_of(parse_workflow(one.document)) for one in rows.select_related("workflow")}
    return {name: line for name, line in found.items() if line}


def _published(account_id: int) -> list[int]:
    messages = Workflow.written.filter(account_id=account_id, sort=Sort.MESSAGE, published__isnull=False)
    return list(messages.values_list("published_id", flat=True))


def said(account_id: int, document: Document) -> Document:
    """The document with the words that its messages have by now."""
    return saying(document, words_of(account_id)) if any(said_by(document)) else document


def draft_of(workflow: Workflow) -> Document:
    return said(workflow.account_id, parse_workflow(workflow.draft))


def running(workflows: Iterable[Workflow]) -> dict[int, set[int]]:
    """By workflow, the versions that somebody may come into or is inside of: who finishes an old one does so by that."""
    found = {one.id: {one.published_id} if one.published_id else set() for one in workflows}
    inside = Enrolment.objects.filter(workflow__in=list(found), ended_at=None)  # as the index has them
    for workflow, version in inside.values_list("workflow_id", "version_id").distinct():
        found[workflow].add(version)
    return found


@dataclass(frozen=True, slots=True)
class SaidBy:
    """A workflow that says a message: in its draft, in versions that run; how many of those inside have it still to come."""

    id: int
    name: str
    runs: bool
    to_come: int


def said_where(account: Account) -> dict[str, list[SaidBy]]:
    """By message, the workflows that say it."""
    from bluffside.server.workflows.versions import program_of, published_document  # it reads by this

    workflows = list(Workflow.objects.filter(account=account, archived_at=None).order_by("name"))
    versions = running(workflows)
    places: dict[int, Counter[str]] = defaultdict(Counter)
    inside = Enrolment.objects.filter(workflow__in=workflows, ended_at=None).values_list("version_id", "place")
    for version, place, count in inside.annotate(count=Count("id")).order_by():
        places[version][place] = count
    found: dict[str, list[SaidBy]] = defaultdict(list)
    for workflow in workflows:
        runs: set[str] = set()
        ahead: Counter[str] = Counter()
        for version in versions[workflow.id]:
            lines = defaultdict(set)
            for name, step in said_by(published_document(version)):
                lines[name].add(step)
            runs |= set(lines)
            for place, count in places[version].items() if lines else ():
                still = set(to_come(program_of(version), place))
                for name, steps in lines.items():
                    ahead[name] += count if steps & still else 0
        for name in sorted(runs | {name for name, _ in said_by(parse_workflow(workflow.draft))}):
            found[name].append(SaidBy(workflow.id, workflow.name, name in runs, ahead[name]))
    return found
