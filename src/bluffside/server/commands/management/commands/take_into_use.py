"""Says that this installation is in real use, for good: no demo, no clock to move, no simulated phones. Tells whether anybody
can sign in yet."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from bluffside.server.practice import first_run, installation
from bluffside.server.practice.models import Person


class Command(BaseCommand):
    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            installation.take_into_use(installation.Use.REAL)
        except installation.InOtherUse as error:
            raise CommandError(str(error)) from None
        if not Person.objects.filter(is_active=True).exists():
            self.stdout.write(
                f"\nNobody can sign in yet. Open this link within a day, once it runs:\n\n  {first_run.link()}\n"
            )
