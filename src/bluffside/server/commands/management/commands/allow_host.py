"""Allows an account's requests to go to a host inside the private network; with --forbid, no longer."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from bluffside.server.practice.models import Account


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("account")
        parser.add_argument("host")
        parser.add_argument("--forbid", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        account = Account.objects.filter(slug=options["account"]).first()
        if account is None:
            raise CommandError(f"There is no account “{options['account']}”.")
        host = options["host"].strip().lower()
        kept = [one for one in account.allowed_hosts if one != host]
        account.allowed_hosts = kept if options["forbid"] else [*kept, host]
        account.save(update_fields=["allowed_hosts"])
        self.stdout.write(
            f"Requests of {account.name} may go to: {', '.join(account.allowed_hosts) or 'public hosts only'}."
        )
