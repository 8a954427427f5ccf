"""Shows what failed and was set aside, with its reason, account by account; with --retry it is tried again."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from bluffside.server.events.models import Pending
from bluffside.server.events.stream import retry_laid_aside
from bluffside.server.practice.models import Account
from bluffside.server.practice.walls import within
from bluffside.server.workflows import signals
from bluffside.server.workflows.models import Enrolment


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--account", default="", help="the account's short name; all accounts without it")
        parser.add_argument("--retry", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        accounts = Account.objects.order_by("slug")
        if options["account"]:
            accounts = accounts.filter(slug=options["account"])
        total = 0
        for account in accounts:
            with within(account):
                total += self._one(account, options["retry"])
        if not total:
            self.stdout.write("Nothing is set aside.")

    def _one(self, account: Account, retry: bool) -> int:
        rows = Enrolment.objects.filter(account=account).exclude(fault="").select_related("workflow").order_by("id")
        for row in rows[:200]:
            self.stdout.write(f"{account.slug}  enrolment {row.id} in “{row.workflow.name}”: {row.fault}")
        events = Pending.objects.filter(account=account).exclude(fault="").order_by("id")
        for event in events[:200]:
            self.stdout.write(f"{account.slug}  event {event.event_id}: {event.fault}")
        total = rows.count() + events.count()
        if retry and total:
            count = signals.retry(account) + retry_laid_aside(account)
            self.stdout.write(f"{account.slug}  {count} are tried again.")
        return total
