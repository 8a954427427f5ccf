"""How long the reasons of workflows are kept."""

from bluffside.server.practice.keeping import Sort
from bluffside.server.workflows.models import Turn

REASONS = Sort(
    "reasons",
    "why workflows did what they did",
    24,
    lambda account, before: Turn.objects.filter(account=account, at__lt=before),
)
