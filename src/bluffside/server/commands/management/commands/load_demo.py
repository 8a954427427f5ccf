"""Makes the demo: once into an empty installation, or anew with --reset, which removes all that is there."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import connection

from bluffside.server.demo.make import make_demo
from bluffside.server.practice.models import Practice


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--reset", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["reset"]:
            call_command("flush", interactive=False, verbosity=0)
        elif Practice.objects.exists():
            return
        # Made-up weeks need not survive a power cut in the middle; they are made in a minute.
        with connection.cursor() as cursor:
            cursor.execute("SET synchronous_commit TO off")
        make_demo(lambda words: self.stdout.write(words))
