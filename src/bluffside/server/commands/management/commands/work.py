"""Runs one worker until it is told to stop."""

from typing import Any

from django.core.management.base import BaseCommand
from procrastinate.contrib.django import app

import bluffside.server.worker  # noqa: F401  # makes the tasks known


class Command(BaseCommand):
    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:
        connector = app.connector.get_worker_connector()  # type: ignore[attr-defined]
        with app.replace_connector(connector) as running:
            running.run_worker(
                concurrency=2, delete_jobs="always", fetch_job_polling_interval=2, shutdown_graceful_timeout=10
            )
