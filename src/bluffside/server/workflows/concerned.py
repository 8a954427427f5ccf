"""The real people of an account, as a workflow being written concerns them: who matches its starts already, and how
many of those it would speak to cannot be reached or lack what its messages merge."""

from collections.abc import Iterator
from time import monotonic

from django.db.models import Count, Exists, OuterRef, Q, QuerySet

from bluffside.core.terms import ADDRESS_OF, CHANNELS, Channel
from bluffside.core.triggers import TagAdded
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.entering import already_matching
from bluffside.core.workflow.house import People
from bluffside.server.people.models import Consent, Contact, ContactTag
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.segments.compiling import people_for

KEPT = 10  # seconds that counts are kept while somebody writes
MERGED = {"contact.first_name": "first_name", "contact.last_name": "last_name", "contact.email": "email"}
_counted: dict[tuple[int, tuple[str, ...]], tuple[float, People]] = {}


# ---- who matches


def matching(account: Account, document: Document) -> list[int]:
    """The contacts that would have come in had the workflow been there before, whatever its entry rules say."""
    condition = already_matching(document)
    if not condition.of:
        return []
    return list(people_for(account, condition, clock.now()).order_by("id").values_list("id", flat=True))


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
    found = _count(tagged) if tags else People(0)
    if not found.count:
        found = _count(everybody)
    if len(_counted) > 1_000:
        _counted.clear()
    _counted[account.id, tags] = (monotonic(), found)
    return found


def _starting_tags(document: Document) -> Iterator[str]:
    for start in document.starts:
        if isinstance(start, TagAdded):
            yield from start.tags


def _count(people: QuerySet[Contact]) -> People:
    no_address = {f"no_{channel}": Count("id", filter=_closed(channel)) for channel in CHANNELS}
    empty = {f"empty_{field}": Count("id", filter=Q(**{field: ""})) for field in MERGED.values()}
    found = people.aggregate(count=Count("id"), **no_address, **empty)
    refused = dict(
        Consent.objects.filter(contact__in=people, state="withdrawn", purpose="marketing")
        .exclude(contact__do_not_contact=True)
        .values_list("channel")
        .annotate(count=Count("id", filter=_with_address()))
        .order_by()
    )
    beyond = {channel: found[f"no_{channel}"] + refused.get(channel, 0) for channel in CHANNELS}
    return People(found["count"], beyond, {path: found[f"empty_{field}"] for path, field in MERGED.items()})


def _closed(channel: Channel) -> Q:
    return Q(**{ADDRESS_OF[channel]: ""}) | Q(do_not_contact=True) | Q(exhausted__contains=[channel])


def _with_address() -> Q:
    """Of consents: those of contacts whom nothing but the consent keeps from being reached on its channel."""
    either = Q(pk__in=[])
    for channel in CHANNELS:
        reached = ~Q(**{f"contact__{ADDRESS_OF[channel]}": ""}) & ~Q(contact__exhausted__contains=[channel])
        either |= Q(channel=channel) & reached
    return either
