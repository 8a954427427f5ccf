"""How long it is kept what happened to people."""

from datetime import datetime

from django.db.models import Exists, OuterRef, QuerySet

from bluffside.server.events.models import Event, Pending
from bluffside.server.practice.keeping import Sort
from bluffside.server.practice.models import Account

# What somebody agreed to, how they came in, and what was noted of them: kept as long as they are.
OUTLIVING = (
    "consent.given", "consent.withdrawn", "contact.added", "contact.merged", "quiet.changed", "note.added",
)  # fmt: skip


def _old(account: Account, before: datetime) -> QuerySet[Event]:
    waiting = Exists(Pending.objects.filter(account=account, event_id=OuterRef("id")))
    return Event.objects.filter(~waiting, account=account, at__lt=before).exclude(kind__in=OUTLIVING)


# Conditions and limits look back up to a year.
EVENTS = Sort("events", "what happened to people", 36, _old, least=13)
