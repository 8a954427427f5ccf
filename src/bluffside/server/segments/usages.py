"""What segments name."""

from collections.abc import Iterator

from bluffside.core.workflow.references import named, renamed
from bluffside.server.people.usages import Use
from bluffside.server.practice.models import Account, Person
from bluffside.server.segments.choosing import condition_of
from bluffside.server.segments.models import Segment


class Segments:
    def uses(self, account: Account) -> Iterator[Use]:
        for one in Segment.objects.filter(account=account):
            condition = condition_of(one)
            for kind, name in named(condition):
                yield Use(kind, name, "segment", one.pk, one.name, f"Everybody for whom: {condition.describe()}")

    def rename(self, account: Account, kind: str, old: str, new: str, by: Person) -> None:
        for one in Segment.objects.filter(account=account).select_for_update():
            condition = condition_of(one)
            if (kind, old) in named(condition):
                one.condition = renamed(condition, {(kind, old): new}).model_dump(mode="json")
                one.save(update_fields=["condition"])
