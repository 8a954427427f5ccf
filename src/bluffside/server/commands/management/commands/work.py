"""Runs one worker until it is told to stop. Any number may run, on any machines that reach the database."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from prometheus_client import start_http_server

from bluffside.server.row_level_security import may_pass
from bluffside.server.worker import Worker


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--only", choices=["deciding", "speaking"], help="one of a worker's two hands")
        parser.add_argument("--metrics-port", type=int, default=0, help="where Prometheus may ask this worker")

    def handle(self, *args: Any, **options: Any) -> None:
        if may_pass():
            self.stderr.write(
                "The database lets this role see past the walls between accounts; see ./bluffside doctor."
            )
        if options["metrics_port"]:
            start_http_server(options["metrics_port"], "127.0.0.1")
        Worker(options["only"]).run()
