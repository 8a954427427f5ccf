"""Makes the demo: once into an empty installation, or anew with --reset, which removes all that is there."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from bluffside.server.demo.make import WEEKS, make_demo
from bluffside.server.practice import installation
from bluffside.server.practice.models import Practice


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--reset", action="store_true")
        parser.add_argument("--weeks", type=int, default=WEEKS)

    def handle(self, *args: Any, **options: Any) -> None:
        """In one transaction: it is there whole or not at all, and a running worker meets none of its made-up past."""
        if installation.is_real():
            raise CommandError(
                "This database is in real use: start it by ./bluffside serve. The demo needs one of its own."
            )
        if Practice.objects.exists() and not options["reset"]:
            return
        with transaction.atomic():
            if options["reset"]:
                call_command("flush", interactive=False, verbosity=0)
            installation.take_into_use(installation.Use.DEMO)
            make_demo(lambda words: self.stdout.write(words), options["weeks"])
