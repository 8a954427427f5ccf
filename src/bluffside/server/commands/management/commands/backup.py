"""Writes the whole installation, or one account with --account, into one file.

The file is a tar of

    manifest.json    what is in it, with the number of rows of each table and a sum over them
    TABLE.copy       the rows of a table, as PostgreSQL's COPY writes them; of one account its own, and of the tables without
                     an account what belongs to it: its practice, and the people of that
    keys             of the whole installation: what links and opt-outs of erased people are signed by. Whoever has the
                     file can sign, too, so it is readable by its owner alone. With one account no keys go along: they are
                     those of all accounts

Run by the database's owner, who sees past the walls. `restore` puts it into an empty installation and compares.
"""

import json
import tarfile
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection, transaction
from django.utils import timezone

from bluffside.server.commands import archive
from bluffside.server.practice.models import Account


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file")
        parser.add_argument("--account", default="", help="the account's short name; everything without it")

    def handle(self, *args: Any, **options: Any) -> None:
        path, slug = Path(options["file"]), options["account"]
        account = Account.objects.filter(slug=slug).first() if slug else None
        if slug and account is None:
            raise CommandError(f"There is no account “{slug}”.")
        if path.exists():
            raise CommandError(f"{path} is there already; it is left as it is.")
        half = path.with_name(f".{path.name}.half")
        try:
            with TemporaryDirectory(dir=path.parent, prefix=".bluffside-") as folder, transaction.atomic():
                with connection.cursor() as cursor:  # everything as it stands at one instant
                    cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
                manifest = self._write(Path(folder), account)
                archive.private(half)
                with tarfile.open(half, "w:gz", compresslevel=3) as tar:
                    for file in sorted(Path(folder).iterdir()):
                        tar.add(file, file.name)
            half.rename(path)
        finally:
            half.unlink(missing_ok=True)
        rows = sum(one["rows"] for one in manifest["tables"].values())
        self.stdout.write(f"{rows:,} rows of {len(manifest['tables'])} tables are in {path}.")

    def _write(self, folder: Path, account: Account | None) -> dict[str, Any]:
        tables: dict[str, Any] = {}
        for table, where in archive.tables(account.id if account else None):
            tables[table] = archive.figures(table, where)
            archive.copy_out(table, where, folder / f"{table}.copy")
        if account is None:
            (folder / "keys").write_text("\n".join(archive.keys()))
        manifest = {
            "format": archive.FORMAT,
            "made": timezone.now().isoformat(),
            "account": account.slug if account else None,
            "migrations": archive.migrations(),
            "tables": tables,
        }
        (folder / "manifest.json").write_text(json.dumps(manifest, indent=1))
        return manifest
