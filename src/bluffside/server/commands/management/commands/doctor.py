"""Says in words what is wrong with this installation, and what to do. Ends with 1 when something keeps it from working."""

import sys
from typing import Any

from django.core.management.base import BaseCommand

from bluffside.server.health import examine

MARKS = {"well": "●", "look": "▲", "wrong": "✕"}


class Command(BaseCommand):
    help = __doc__ or ""
    requires_system_checks: list[str] = []  # it looks itself

    def handle(self, *args: Any, **options: Any) -> None:
        found = list(examine())
        for one in found:
            self.stdout.write(f"{MARKS[one.how]} {one.says}")
        if any(one.how == "wrong" for one in found):
            sys.exit(1)
