"""Puts a back-up into an empty installation, and compares every table with what the back-up says it held."""

import json
import tarfile
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection, transaction
from django.db.models import Max, Min

from bluffside.server.commands import archive
from bluffside.server.events.models import Event
from bluffside.server.events.partitions import make_months
from bluffside.server.practice.models import Practice


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file")

    def handle(self, *args: Any, **options: Any) -> None:
        with TemporaryDirectory(prefix="bluffside-") as name:
            folder = Path(name)
            try:
                with tarfile.open(options["file"]) as tar:
                    tar.extractall(folder, filter="data")
                manifest = json.loads((folder / "manifest.json").read_text())
            except (OSError, tarfile.TarError, ValueError) as error:
                raise CommandError(f"This is not a back-up: {error}. Nothing was changed.") from None
            if not isinstance(manifest, dict) or manifest.get("format") != archive.FORMAT:
                raise CommandError("This is not a back-up of a kind known here. Nothing was changed.")
            if Practice.objects.exists():
                raise CommandError("This installation is not empty. Nothing was changed.")
            if strange := sorted(set(manifest["migrations"]) ^ set(archive.migrations())):
                raise CommandError(f"It was made by another version ({', '.join(strange[:3])}). Nothing was changed.")
            self._put(manifest, folder)
            self._compare(manifest)
            if (folder / "keys").exists() and archive.take_over((folder / "keys").read_text().split()):
                self.stdout.write("Links that were sent open here, too: the keys of the back-up are now among the older ones"
                                  f" ({settings.OLD_KEYS}). Start web and workers anew.")  # fmt: skip

    def _put(self, manifest: dict[str, Any], folder: Path) -> None:
        with transaction.atomic():
            with connection.cursor() as cursor:
                cursor.execute("SET CONSTRAINTS ALL DEFERRED")
            for table in archive.known(manifest["tables"]):
                archive.copy_in(table, folder / f"{table}.copy")
            archive.set_sequences()
        self._months()

    def _months(self) -> None:
        """The rows of past months get their own tables."""
        span = Event.objects.aggregate(first=Min("at"), last=Max("at"))
        if span["first"]:
            make_months(span["first"], span["last"])

    def _compare(self, manifest: dict[str, Any]) -> None:
        others = [table for table, kept in manifest["tables"].items() if archive.figures(table, "true") != kept]
        if others:
            raise CommandError(f"What came in differs from the back-up in {', '.join(others)}. Do not use it.")
        rows = sum(one["rows"] for one in manifest["tables"].values())
        self.stdout.write(f"{rows:,} rows of {len(manifest['tables'])} tables came in, the same as in the back-up.")
