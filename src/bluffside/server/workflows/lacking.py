"""Who of those that are still to read a message has nothing in one of its merge fields."""

from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from bluffside.core.messages.merge import BadTemplate, is_known, render, uses
from bluffside.core.steps.speaking import Speaking
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.library import said_by
from bluffside.core.workflow.moving import to_come
from bluffside.server.practice.models import Account
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.library import running
from bluffside.server.workflows.models import Enrolment, Sort, Workflow
from bluffside.server.workflows.versions import program_of, published_document

MOST = 2_000  # people that are looked at, the first to have come in
NAMED = 6


@dataclass(frozen=True, slots=True)
class Lack:
    """`words`: said when it is empty; None: a gap stands there. `names`: the first few of those who lack it."""

    field: str
    words: str | None
    lack: int
    names: list[str]


def still_to_read(workflows: Iterable[Workflow], lines_of: Callable[[Document], set[str]]) -> list[int]:
    """Contacts inside of workflows whose way may still come by one of the lines, the first to have joined first; MOST at most."""
    places: list[tuple[int, str]] = []
    for version in {version for versions in running(workflows).values() for version in versions}:
        lines = lines_of(published_document(version))
        if not lines:
            continue
        standing = Enrolment.objects.filter(version=version, ended_at=None).values_list("place", flat=True).distinct()
        places += [(version, place) for place in standing if lines & set(to_come(program_of(version), place))]
    found: dict[int, None] = {}
    for version, place in places:
        inside = Enrolment.objects.filter(version=version, ended_at=None, place=place).order_by("joined_at", "id")
        found |= dict.fromkeys(inside.values_list("contact_id", flat=True)[:MOST])
    return list(found)[:MOST]


def readers(row: Workflow, line: Speaking) -> list[int]:
    """Who is still to read a line: of a message of the library, wherever it is said; of a script's own, in that workflow."""
    if name := row.name if row.sort == Sort.MESSAGE else line.library:
        everywhere = Workflow.objects.filter(account=row.account, archived_at=None)
        return still_to_read(everywhere, lambda document: {step for said, step in said_by(document) if said == name})
    return still_to_read(
        [row], lambda document: {line.id} & {step.id for step in walk(document.steps) if isinstance(step, Speaking)}
    )


def lacking(account: Account, contacts: list[int], line: Speaking) -> tuple[int, list[Lack]]:
    """How many people were looked at, and each merge field of the line with who lacks it, the most lacked first."""
    said: dict[str, str | None] = {}
    for wording in line.versions().values():
        for text in wording.texts():
            said |= {use.path: use.words for use in uses(text) if is_known(use.path)}
    facts = load_facts(account, contacts)
    names: dict[str, list[str]] = defaultdict(list)
    for known in (facts[id] for id in contacts if id in facts):  # in their order
        for path in said:
            try:
                value = render(f"{{{{ {path} }}}}", known)
            except BadTemplate:  # a check says so
                continue
            if not value.strip():
                names[path].append(known.contact.name)
    rows = [Lack(is_known(path), words, len(names[path]), names[path][:NAMED]) for path, words in said.items()]
    return len(facts), sorted(rows, key=lambda one: (-one.lack, one.field))
