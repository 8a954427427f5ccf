"""Makes the practice and its first consultant, who signs in with a password that is asked for here."""

from getpass import getpass
from typing import Any

from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from bluffside.server.practice.models import Person, Practice


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("email")
        parser.add_argument("name")
        parser.add_argument("--practice", default="", help="what the practice is called; the person's name without it")

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        if Person.objects.exists():
            raise CommandError("Somebody can sign in already. Nothing was changed.")
        practice = Practice.objects.create(name=options["practice"] or options["name"])
        try:
            Person.objects.create_user(
                options["email"], getpass("Password (ten letters or more): "), name=options["name"], practice=practice,
                is_consultant=True,
            )  # fmt: skip
        except ValidationError as error:
            raise CommandError(f"{' '.join(error.messages)} Nothing was changed.") from None
        self.stdout.write(f"{options['name']} can sign in as {options['email'].lower()}.")
