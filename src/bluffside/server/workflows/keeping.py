"""How long the reasons of workflows are kept."""

from bluffside.server.practice.keeping import Sort
from bluffside.server.workflows.models import EnrolmentReasons

REASONS = Sort(
    "reasons",
    "why workflows did what they did",
    24,
    lambda account, before: EnrolmentReasons.objects.filter(account=account, at__lt=before),
)
