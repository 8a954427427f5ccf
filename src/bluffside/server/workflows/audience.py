"""The real people of an account, as a workflow being written concerns them: who matches its starts already, and how
many of those it would speak to cannot be reached or lack what its messages merge."""

from collections.abc import Iterator
from time import monotonic

from django.db.models import Count, Exists, OuterRef, Q, QuerySet

from bluffside.core.conditions.person import ReachTest
from bluffside.core.terms import CHANNELS
from bluffside.core.triggers import TagAdded
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.entering import already_matching, deals_matching
from bluffside.core.workflow.house import People
from bluffside.server.people.models import Contact, ContactTag
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.segments.compiling import Compiler, people_for
from bluffside.server.workflows.facts import load_facts

KEPT = 10  # seconds that counts are kept while somebody writes
MERGED = {"contact.first_name": "first_name", "contact.last_name": "last_name", "contact.email": "email"}
_counted: dict[tuple[int, tuple[str, ...]], tuple[float, People]] = {}


# ---- who matches


def matching(account: Account, document: Document) -> list[tuple[int, str]]:
    """The contacts that would have come in had the workflow been there before, whatever its entry rules say; each for the
    deals that it would have been for, or for none."""
    condition = already_matching(document)
    if not condition.of:
        return []
    now = clock.now()
    ids = list(people_for(account, condition, now).order_by("id").values_list("id", flat=True))
    if document.entry.each == "person":
        return [(id, "") for id in ids]
    facts = load_facts(account, ids, condition.all_needs(), now)
    return [(id, deal) for id in ids if id in facts for deal in deals_matching(document, facts[id], now)]


# ---- who cannot be reached


def people_of(account: Account, document: Document) -> People:
    """The people concerned, counted: those who have a tag it starts on; everybody of the account when nobody has, or it
    starts on something else. Counts are kept for some seconds, since a script is read on every change."""
    tags = tuple(sorted(_starting_tags(document)))
    known = _counted.get((account.id, tags))
    if known and monotonic() - known[0] < KEPT:
        return known[1]
    everybody = Contact.objects.filter(account=account)
    tagged = everybody.filter(Exists(ContactTag.objects.filter(contact=OuterRef("id"), tag__name__in=tags)))
    found = _count(account, tagged) if tags else People(0)
    if not found.count:
        found = _count(account, everybody)
    if len(_counted) > 1_000:
        _counted.clear()
    _counted[account.id, tags] = (monotonic(), found)
    return found


def _starting_tags(document: Document) -> Iterator[str]:
    for start in document.starts:
        if isinstance(start, TagAdded):
            yield from start.tags


def _count(account: Account, people: QuerySet[Contact]) -> People:
    """Whom a channel does not reach is told by the rule itself, as segments ask for it."""
    rule = Compiler(account, clock.now())
    closed = {
        f"no_{channel}": Count("id", filter=rule.compiled(ReachTest(channel=channel, can=False)))
        for channel in CHANNELS
    }
    empty = {f"empty_{field}": Count("id", filter=Q(**{field: ""})) for field in MERGED.values()}
    found = people.aggregate(count=Count("id"), **closed, **empty)
    beyond = {channel: found[f"no_{channel}"] for channel in CHANNELS}
    return People(found["count"], beyond, {path: found[f"empty_{field}"] for path, field in MERGED.items()})
