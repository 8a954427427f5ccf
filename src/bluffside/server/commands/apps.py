from typing import Any

from django.apps import AppConfig, apps
from django.db.models.signals import post_migrate


class CommandsConfig(AppConfig):
    name = "bluffside.server.commands"
    label = "commands"

    def ready(self) -> None:
        # Sent for apps with models, in their order: after the last one every table is there.
        post_migrate.connect(_after_migrating, sender=apps.get_app_config("outside"))


def _after_migrating(**about: Any) -> None:
    from datetime import timedelta

    from django.utils import timezone

    from bluffside.server import row_level_security
    from bluffside.server.events.partitions import AHEAD, make_months

    if not row_level_security.is_owner():  # emptying the tables after a test sends the same signal
        return
    make_months(timezone.now() - timedelta(days=62), timezone.now() + AHEAD)
    row_level_security.raise_walls()
