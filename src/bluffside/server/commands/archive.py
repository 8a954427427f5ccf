"""What backing up and restoring share: the tables with the rows that belong, their figures, copying in and out."""

import os
import shutil
import subprocess
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from django.core.management.base import CommandError
from django.db import connection

from bluffside.server.walls import account_tables

# Tables without an account, and which of their rows belong to one.
BESIDE = {
    "practice_practice": "id = (SELECT practice_id FROM practice_account WHERE id = {account})",
    "practice_person": "practice_id = (SELECT practice_id FROM practice_account WHERE id = {account})",
    "practice_account": "id = {account}",
}
# Not data of the installation: Django's own, sessions, signs of life.
LEFT_OUT = ("django_", "auth_", "axes_", "practice_workerseen")


def tables(account_id: int | None) -> Iterator[tuple[str, str]]:
    """Each table with the condition for its rows, those that others refer to first."""
    if account_id is not None:
        for table, where in BESIDE.items():
            yield table, where.format(account=account_id)
        for table in account_tables():
            yield table, f"account_id = {account_id}"
        return
    for table in _all_tables():
        yield table, "true"


def known(names: Iterable[str]) -> list[str]:
    """Those names that are tables here, in the order given: what a file says is no SQL."""
    here = set(_all_tables())
    if strange := [name for name in names if name not in here]:
        raise CommandError(f"There is no table {strange[0]} here. Nothing was changed.")
    return list(names)


def _all_tables() -> list[str]:
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT relname FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind IN ('r', 'p')"
            " AND NOT relispartition ORDER BY relname"
        )
        return [row[0] for row in cursor.fetchall() if not row[0].startswith(LEFT_OUT)]


def figures(table: str, where: str) -> dict[str, Any]:
    """How many rows, and a sum over all that is in them that does not depend on their order."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT count(*), coalesce(sum(hashtextextended(t::text, 0)::numeric), 0)::text FROM {table} t WHERE {where}"
        )
        count, total = cursor.fetchone()
    return {"rows": count, "sum": total}


def columns(table: str) -> str:
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT string_agg(quote_ident(attname), ', ' ORDER BY attnum) FROM pg_attribute"
            " WHERE attrelid = %s::regclass AND attnum > 0 AND NOT attisdropped",
            [table],
        )
        return str(cursor.fetchone()[0])


def copy_out(table: str, where: str, path: Path) -> None:
    copy = f"COPY (SELECT {columns(table)} FROM {table} WHERE {where}) TO STDOUT"
    with connection.cursor() as cursor, path.open("wb") as file, cursor.copy(copy) as out:
        for part in out:
            file.write(part)


def copy_in(table: str, path: Path) -> None:
    copy = f"COPY {table} ({columns(table)}) FROM STDIN"
    with connection.cursor() as cursor, path.open("rb") as file, cursor.copy(copy) as into:
        while part := file.read(1 << 20):
            into.write(part)


def migrations() -> list[str]:
    with connection.cursor() as cursor:
        cursor.execute("SELECT app || '.' || name FROM django_migrations ORDER BY 1")
        return [row[0] for row in cursor.fetchall()]


def snapshot() -> str:
    """Of the transaction at hand, for pg_dump to see the same instant."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_export_snapshot()")
        return str(cursor.fetchone()[0])


def dump(of_snapshot: str, path: Path) -> None:
    command = [
        _program("pg_dump"),
        "-Fc",
        "-Z0",
        "--data-only",
        "--load-via-partition-root",
        f"--snapshot={of_snapshot}",
        "-f",
        str(path),
    ]
    excluded = [f"--exclude-table=public.{one}*" for one in LEFT_OUT]
    subprocess.run([*command, *excluded], env=_env(), check=True)


def load(path: Path) -> None:
    command = [_program("pg_restore"), "--data-only", "--disable-triggers", "--single-transaction", "--exit-on-error"]
    subprocess.run([*command, "-d", str(connection.settings_dict["NAME"]), str(path)], env=_env(), check=True)


def set_sequences() -> None:
    """Every sequence goes on after the highest id that is there."""
    with connection.cursor() as cursor:
        for table in _all_tables():
            cursor.execute(
                "SELECT pg_get_serial_sequence(%s, 'id') FROM pg_attribute WHERE attrelid = %s::regclass AND attname = 'id'",
                [table, table],
            )
            found = cursor.fetchone()
            if found and found[0]:
                cursor.execute(f"SELECT setval(%s, (SELECT coalesce(max(id), 0) + 1 FROM {table}), false)", [found[0]])


def _program(name: str) -> str:
    if found := shutil.which(name):
        return found
    versions = sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{name}"))
    if not versions:
        raise FileNotFoundError(f"{name} is not on this machine; Debian has it in postgresql-client")
    return str(versions[-1])


def _env() -> dict[str, str]:
    own = connection.settings_dict
    return os.environ | {
        "PGHOST": str(own["HOST"]),
        "PGPORT": str(own["PORT"]),
        "PGUSER": str(own["USER"]),
        "PGPASSWORD": str(own["PASSWORD"]),
        "PGDATABASE": str(own["NAME"]),
    }
