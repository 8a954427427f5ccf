"""The names that an account has for things, and lines brought in from elsewhere with other names."""

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

from django.db.models import Count

from bluffside.core.messages.merge import own_path
from bluffside.core.own_fields import FURTHER, OWN
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.words import counted
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.references import in_steps, references, renamed
from bluffside.server.diary.models import Appointment
from bluffside.server.messaging.models import Sender
from bluffside.server.people.field_kinds import FIELD_KINDS
from bluffside.server.people.models import ContactList, Field, Tag
from bluffside.server.people.sorting import on_lists
from bluffside.server.pipeline.stages import names as stages_by_pipeline
from bluffside.server.practice.models import Account, Person
from bluffside.server.workflows.library import draft_of, words_of
from bluffside.server.workflows.models import Sort, Workflow
from bluffside.server.workflows.scoring import rules_of

OWN_FIELDS = {name: one.label for name, one in OWN.items()} | dict(FURTHER)


@dataclass(frozen=True, slots=True)
class Name:
    """`about`: what is worth knowing when choosing it ("38 people", "a date")."""

    name: str
    about: str = ""


More = Callable[[Account], dict[str, dict[str, str]]]
_more: list[More] = []


def add_names(more: More) -> None:
    """Has an area that stands above this one add the names of its things (by kind, with what is worth knowing of each).
    Called when apps are ready."""
    _more.append(more)


def from_above(account: Account) -> dict[str, dict[str, str]]:
    """What the areas above have added."""
    found: dict[str, dict[str, str]] = defaultdict(dict)
    for more in _more:
        for kind, named in more(account).items():
            found[kind] |= named
    return found


def names_of(account: Account) -> dict[str, list[Name]]:
    """By kind (see core.workflow.references.KINDS; also stages and messages), in alphabetical order. What the account has
    no table for is known from the workflows that name it."""
    found: dict[str, dict[str, str]] = defaultdict(dict)
    messages: dict[str, str] = {}
    for workflow in Workflow.objects.filter(account=account, archived_at=None):
        document = draft_of(workflow)
        for one in references(document):
            # the account's table knows fields, and messages say them in another way; messages are those that lines say
            if one.kind not in ("field", "message"):
                found[one.kind].setdefault(one.name, "")
        for step in walk(document.steps):
            if step.speaks and (title := getattr(step, "title", "")):
                messages.setdefault(title, workflow.name)
    for tag in Tag.objects.filter(account=account).annotate(count=Count("tagged")):
        found["tag"][tag.name] = f"{tag.count} {'person' if tag.count == 1 else 'people'}"
    found["field"] |= {field.name: FIELD_KINDS[field.kind].label for field in Field.objects.filter(account=account)}
    found["list"] |= {name: counted(count, "person", "people") for name, count in on_lists(account).items()}
    for known in ContactList.objects.filter(account=account):
        found["list"].setdefault(known.name, known.about)
    for kind, more in from_above(account).items():
        found[kind] = {**more, **found[kind]}
    for pipeline, stages in stages_by_pipeline(account):
        found["pipeline"][pipeline] = ", ".join(stages)
        found["stage"] |= {stage: pipeline for stage in stages if stage not in found["stage"]}
    types = Appointment.objects.filter(account=account).values_list("type", flat=True).distinct()
    for name in types:
        found["appointment"].setdefault(name, "")
    found["workflow"] = {
        one.name: "runs" if one.published_id and one.open else ""
        for one in Workflow.objects.filter(account=account, archived_at=None, sort=Sort.SCRIPT)
    }
    found["member"] = {one.name: "" for one in members_of(account)}
    found["sender"] = {
        one.name: f"{one.channel}, {one.address}"
        for one in Sender.objects.filter(account=account, confirmed_at__isnull=False)
    }
    found["message"] = messages
    found["library"] = dict.fromkeys(words_of(account.id), "")
    found["score"] |= dict.fromkeys((rules_of(account) or ScoreRules()).further, "a further score")
    return {kind: [Name(*one) for one in sorted(named.items(), key=_alike)] for kind, named in found.items()}


def _alike(named: tuple[str, str]) -> str:
    return named[0].casefold()


def members_of(account: Account) -> list[Person]:
    """Who can be given something there."""
    people = Person.objects.filter(memberships__account=account, is_active=True)
    return sorted({*people, *([account.responsible] if account.responsible else [])}, key=lambda one: one.name)


# ---- lines from elsewhere

# What a line can name before it exists; all else has to be there.
COMES_BY_ITSELF = ("tag", "list", "field", "form")


@dataclass(frozen=True, slots=True)
class Missing:
    """A name that lines use and the account does not have; `offered`: whether it may come into being by being used."""

    kind: str
    name: str
    offered: bool
    times: int


def missing(account: Account, lines: Document) -> list[Missing]:
    """What lines name that is not in the account, each once, in the order of the lines."""
    known = {kind: {one.name for one in named} for kind, named in names_of(account).items()}
    fields = {own_path(name) for name in known.get("field", ())}
    named = Counter((one.kind, one.name) for one in in_steps(lines.steps))
    return [
        Missing(kind, name, kind in COMES_BY_ITSELF, times)
        for (kind, name), times in named.items()
        if kind != "message" and name not in known.get(kind, ()) and not (kind == "field" and own_path(name) in fields)
    ]


def with_names(lines: Document, names: Iterable[tuple[str, str, str]]) -> Document:
    """The lines with names (kind, old, new) put in place of others."""
    mapping: Mapping[tuple[str, str], str] = {(kind, old): new for kind, old, new in names if new}
    steps: Sequence[object] = [renamed(step, mapping) for step in lines.steps]
    return lines.model_copy(update={"steps": tuple(steps)})
