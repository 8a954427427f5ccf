"""What backing up and restoring share: the tables with the rows that belong, their figures, copying in and out, and keys."""

from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import Any

from django.apps import apps
from django.conf import settings
from django.core.management.base import CommandError
from django.db import connection
from django.db.migrations.recorder import MigrationRecorder
from django.db.models import AutoField, Max

from bluffside.server import sql
from bluffside.server.row_level_security import account_tables

# Tables without an account, and which of their rows belong to one.
BESIDE = {
    "practice_practice": "id = (SELECT practice_id FROM practice_account WHERE id = {account})",
    "practice_person": "practice_id = (SELECT practice_id FROM practice_account WHERE id = {account})",
    "account_emailaddress": "user_id IN (SELECT p.id FROM practice_person p JOIN practice_account a USING (practice_id)"
    " WHERE a.id = {account})",
    "practice_account": "id = {account}",
}
FORMAT = "bluffside-backup/2"
# Not data of the installation: Django's own, sessions, signs of life.
LEFT_OUT = ("django_", "auth_", "axes_", "usersessions_", "practice_workerseen", "practice_cache")


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
    tables = {model._meta.db_table for model in apps.get_models(include_auto_created=True)}
    return sorted(table for table in tables if not table.startswith(LEFT_OUT))


def figures(table: str, where: str) -> dict[str, Any]:
    """How many rows, and a sum over all that is in them that does not depend on their order."""
    # Over rows as PostgreSQL writes them, whatever their columns are.
    summed = (
        f"SELECT count(*), coalesce(sum(hashtextextended(t::text, 0)::numeric), 0)::text FROM {table} t WHERE {where}"  # noqa: S608  # tables of ours
    )
    [(count, total)] = sql.rows(summed)
    return {"rows": count, "sum": total}


def columns(table: str) -> str:
    made = {
        field.column for model in apps.get_models() if model._meta.db_table == table for field in model._meta.concrete_fields
        if field.generated
    }  # fmt: skip
    names = [
        one.name
        for one in connection.introspection.get_table_description(connection.cursor(), table)
        if one.name not in made
    ]
    return ", ".join(map(connection.ops.quote_name, names))


def copy_out(table: str, where: str, path: Path) -> None:
    copy = f"COPY (SELECT {columns(table)} FROM {table} WHERE {where}) TO STDOUT"  # noqa: S608  # tables of ours
    with connection.cursor() as cursor, path.open("wb") as file, cursor.copy(copy) as out:
        for part in out:
            file.write(part)


def copy_in(table: str, path: Path) -> None:
    copy = f"COPY {table} ({columns(table)}) FROM STDIN"
    with connection.cursor() as cursor, path.open("rb") as file, cursor.copy(copy) as into:
        while part := file.read(1 << 20):
            into.write(part)


def migrations() -> list[str]:
    applied = MigrationRecorder.Migration.objects.values_list("app", "name")
    return sorted(f"{app}.{name}" for app, name in applied)


AHEAD = 1_000_000  # ids that may have been given out after the back-up was made, and stand in links and keys out there


def set_sequences() -> None:
    """Every sequence goes on well after the highest id that is there: none is given to two things, also not one that was
    given to something after the back-up was made."""
    tables = set(_all_tables())
    for model in apps.get_models():
        if model._meta.db_table in tables and isinstance(model._meta.pk, AutoField):
            highest = model._base_manager.aggregate(highest=Max("pk"))["highest"] or 0
            # A sequence is no model's.
            sql.rows("SELECT setval(pg_get_serial_sequence(%s, 'id'), %s)", [model._meta.db_table, highest + AHEAD])


# ---- keys


def keys() -> list[str]:
    """What signs links and keeps what erased people had opted out of, the newest first."""
    return [settings.SECRET_KEY, *settings.SECRET_KEY_FALLBACKS]


def take_over(found: Sequence[str]) -> bool:
    """Has this installation believe what those keys signed, besides its own. Answers whether there was one it did not know."""
    new = [key for key in found if key not in keys()]
    if new:
        private(settings.OLD_KEYS, "\n".join([*settings.SECRET_KEY_FALLBACKS, *new]) + "\n")
    return bool(new)


def private(path: Path, text: str = "") -> None:
    """A file that nobody but its owner reads."""
    path.touch(mode=0o600)
    path.chmod(0o600)
    path.write_text(text)
