"""Makes the demo: once into an empty installation, or anew with --reset, which removes all that is there."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction

from bluffside.server.demo.make import WEEKS, make_demo
from bluffside.server.practice.models import Practice


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--reset", action="store_true")
        parser.add_argument("--weeks", type=int, default=WEEKS)

    def handle(self, *args: Any, **options: Any) -> None:
        """In one transaction: it is there whole or not at all, and a running worker meets none of its made-up past."""
        if Practice.objects.exists() and not options["reset"]:
            return
        with transaction.atomic():
            if options["reset"]:
                call_command("flush", interactive=False, verbosity=0)
            make_demo(lambda words: self.stdout.write(words), options["weeks"])
