"""What went out in a period and what came of it, told apart by a line, a message, a channel, a sender, a wording."""

from collections import Counter, defaultdict
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from django.db.models import QuerySet, Sum

from bluffside.core.statistics.share import Share, share
from bluffside.server.practice.models import Account
from bluffside.server.results.models import MessageSum
from bluffside.server.results.periods import Period

COUNTS = (
    "tried",
    "delivered",
    "failed",
    "with_link",
    "clicked",
    "replied",
    "booked",
    "reached",
    "worth",
    "opted_out",
    "complained",
)


@dataclass(slots=True)
class Sent:
    """`why`: how many failed, by reason. Shares of what came of it are of those delivered; of clicks, of those with a link."""

    tried: int = 0
    delivered: int = 0
    failed: int = 0
    with_link: int = 0
    clicked: int = 0
    replied: int = 0
    booked: int = 0
    reached: int = 0
    worth: Decimal = Decimal(0)
    opted_out: int = 0
    complained: int = 0
    why: Counter[str] = field(default_factory=Counter)

    def share_of(self, count: str) -> Share:
        of = {"delivered": self.tried, "failed": self.tried, "clicked": self.with_link}.get(count, self.delivered)
        return share(getattr(self, count), of)

    def join(self, other: "Sent") -> None:
        for name in COUNTS:
            setattr(self, name, getattr(self, name) + getattr(other, name))
        self.why.update(other.why)

    def add(self, row: dict[str, Any]) -> None:
        for name in COUNTS:
            setattr(self, name, getattr(self, name) + row[f"all_{name}"])


def sums_in(account: Account, period: Period, workflow_id: int | None = None) -> QuerySet[MessageSum]:
    rows = MessageSum.objects.filter(account=account, day__gte=period.since, day__lte=period.until)
    return rows if workflow_id is None else rows.filter(workflow_id=workflow_id)


def sent_by(rows: QuerySet[MessageSum], *by: str) -> dict[tuple[Any, ...], Sent]:
    """By the values of some columns of the sums."""
    found: dict[tuple[Any, ...], Sent] = defaultdict(Sent)
    for row in rows.values(*by).annotate(**{f"all_{name}": Sum(name) for name in COUNTS}).order_by():
        found[tuple(row[name] for name in by)].add(row)
    for *key, why in rows.exclude(why={}).values_list(*by, "why").order_by():
        found[tuple(key)].why.update(why)
    return dict(found)
