"""What changed in an account, by whom and when, old and new in words: the audit trail behind Set-up's last page.

Every service that changes what an account is set to, publishes, exports or erases notes it in its own transaction. Entries are
kept as long as the account.
"""

from collections.abc import Iterable, Mapping
from typing import Literal, NamedTuple

from django.db.models import Q, QuerySet

from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, AuditEntry, Person

Area = Literal[
    "business",
    "hours",
    "rules",
    "consent",
    "account",
    "team",
    "senders",
    "brand",
    "connections",
    "appointments",
    "pipelines",
    "score",
    "publishing",
    "exports",
    "erasures",
]
AREAS: Mapping[str, str] = {
    "business": "the business",
    "hours": "hours and days off",
    "rules": "house rules",
    "consent": "consent",
    "account": "the account",
    "team": "the team",
    "senders": "senders",
    "brand": "the brand",
    "connections": "connections",
    "appointments": "appointments",
    "pipelines": "pipelines",
    "publishing": "publishing",
    "exports": "exports",
    "erasures": "erasures",
}
LONGEST = 2_000  # characters of what stood there, and of what stands there now


class Noted(NamedTuple):
    """`what` was changed, from `old` to `new`; both in words, empty where there is nothing."""

    what: str
    old: str = ""
    new: str = ""


def note(account: Account, by: Person | None, area: Area, entries: Iterable[Noted]) -> None:
    AuditEntry.objects.bulk_create(
        AuditEntry(
            account=account,
            at=clock.now(),
            by=by,
            by_name=by.name if by else "",
            area=area,
            what=one.what[:200],
            old=one.old[:LONGEST],
            new=one.new[:LONGEST],
        )
        for one in entries
    )


def entries(account: Account, q: str = "", area: str = "") -> QuerySet[AuditEntry]:
    """The newest first; those that have every word of `q` somewhere."""
    found = AuditEntry.objects.filter(account=account).order_by("-at", "-id")
    for word in q.split()[:6]:
        found = found.filter(
            Q(what__icontains=word) | Q(old__icontains=word) | Q(new__icontains=word) | Q(by_name__icontains=word)
        )
    return found.filter(area=area) if area else found
