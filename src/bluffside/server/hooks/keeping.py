"""How long requests to other systems are kept."""

from bluffside.server.hooks.models import Call
from bluffside.server.practice.keeping import Sort

REQUESTS = Sort(
    "requests",
    "requests to other systems",
    12,
    lambda account, before: Call.objects.filter(
        account=account, state__in=(Call.State.ANSWERED, Call.State.FAILED), made_at__lt=before
    ),
)
