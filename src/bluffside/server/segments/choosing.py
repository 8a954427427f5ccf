"""Whom somebody means: by id, by search, tag, list, segment or condition. All that is asked for holds."""

from collections.abc import Sequence

from django.db.models import Count, QuerySet, Value
from ninja import Schema
from ninja.errors import HttpError
from pydantic import ConfigDict, TypeAdapter

from bluffside.core.conditions import Condition
from bluffside.core.conditions.base import Test
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import search
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.segments.compiling import deals_for, people_for
from bluffside.server.segments.models import Segment

_reader: TypeAdapter[Test] = TypeAdapter(Condition)


class Chosen(Schema):
    """Contacts by id, or all of the account; of these those whom a search finds, who have a tag, are on a list, are in a
    segment (by its name), and fit a condition. A word that is not known here is refused: passed over, it would mean
    everybody."""

    model_config = ConfigDict(extra="forbid")

    ids: list[int] | None = None
    q: str = ""
    tag: str = ""
    list: str = ""
    segment: str = ""
    where: Condition | None = None


def condition_of(segment: Segment) -> Test:
    return _reader.validate_python(segment.condition)


def people(account: Account, who: Chosen) -> QuerySet[Contact]:
    """Raises HttpError (422) when there is no such segment or the condition is not complete."""
    found = search(account, who.q, who.tag)
    if who.ids is not None:
        found = found.filter(id__in=who.ids)
    if who.list:
        found = found.filter(lists__contains=[who.list])
    for condition in _conditions(account, who):
        found = found.filter(id__in=people_for(account, condition, clock.now()).values("id"))
    return found


def deals(account: Account, who: Chosen) -> QuerySet[Deal]:
    """The deals for which its segment and condition hold: of each its own parts, and who it is of. Raises as `people` does."""
    found = Deal.objects.filter(account=account)
    for condition in _conditions(account, who):
        found = found.filter(id__in=deals_for(account, condition, clock.now()).values("id"))
    return found


def _conditions(account: Account, who: Chosen) -> list[Test]:
    conditions: list[Test] = [who.where] if who.where else []
    if who.segment:
        segment = Segment.objects.filter(account=account, name=who.segment).first()
        if segment is None:
            raise HttpError(422, f"There is no segment “{who.segment}” any more. Nobody was chosen.")
        conditions.append(condition_of(segment))
    for condition in conditions:
        if missing := condition.missing():
            raise HttpError(422, f"The condition is not complete: {missing}.")
    return conditions


def count_each(account: Account, segments: Sequence[Segment]) -> dict[int, int]:
    """How many people are in each segment, by its id; those that nobody is in are left out."""
    now, counts = clock.now(), []
    for one in segments:
        condition = condition_of(one)
        if not condition.missing():
            found = people_for(account, condition, now).order_by().values("account_id")
            counts.append(found.annotate(segment=Value(one.id), n=Count("id")).values_list("segment", "n"))
    return dict(counts[0].union(*counts[1:], all=True)) if counts else {}


def ids(account: Account, who: Chosen) -> list[int]:
    return list(people(account, who).order_by("id").values_list("id", flat=True))
