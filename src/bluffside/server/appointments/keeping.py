"""How long it is kept who waited for what is over, and when members were busy elsewhere."""

from bluffside.server.appointments.models import Busy, Waiting
from bluffside.server.practice.keeping import Sort

WAITED = Sort(
    "waiting",
    "who waited for a place",
    1,
    lambda account, before: Waiting.objects.filter(account=account, sitting__start__lt=before),
)
BUSY = Sort(
    "busy",
    "when members were busy elsewhere",
    1,
    lambda account, before: Busy.objects.filter(account=account, end__lt=before),
)
