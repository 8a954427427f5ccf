"""Set-based writes: one statement for many rows, given as columns.

Django's ORM builds an object a row and a statement a chunk; where the engine writes thousands of rows at a time that
is most of its time. Row-level security does not take COPY, so rows come as arrays and are unnested.
"""

import math
import re
from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import connection, models

from bluffside.core.workflow.plain_data import NO_TEXT

_encoder = DjangoJSONEncoder(ensure_ascii=False, separators=(",", ":"))


_ODD = re.compile("\\\\u0000|[\ud800-\udfff]|NaN|Infinity")  # in JSON; some of what it finds is sound


def plain(text: str) -> str:
    """Text as PostgreSQL stores it: without NUL, and without halves of characters."""
    return NO_TEXT.sub("", text)


def kept(value: Any) -> Any:
    """Data of JSON as PostgreSQL stores it: text as `plain` leaves it, and no number that is none."""
    match value:
        case str():
            return plain(value)
        case dict():
            return {plain(str(name)): kept(one) for name, one in value.items()}
        case list() | tuple():
            return [kept(one) for one in value]
        case float() if not math.isfinite(value):
            return None
    return value


def to_json(value: Any) -> str:
    """As jsonb takes it: dates and decimals as text, and nothing that PostgreSQL does not store."""
    text = _encoder.encode(value)
    return _encoder.encode(kept(value)) if _ODD.search(text) else text


def array(values: Sequence[Any]) -> str:
    """A PostgreSQL array of plain values in its text form. The driver does the same in Python, ten times as slowly."""
    first = next((value for value in values if value is not None), None)
    if isinstance(first, str):
        quoted = (
            "NULL" if value is None else '"' + value.replace("\\", "\\\\").replace('"', '\\"') + '"' for value in values
        )
        return "{" + ",".join(quoted) + "}"
    if isinstance(first, date):
        return "{" + ",".join("NULL" if value is None else f'"{value.isoformat()}"' for value in values) + "}"
    return "{" + ",".join("NULL" if value is None else str(value) for value in values) + "}"


Parameters = Sequence[Any] | Mapping[str, Any]


def _bound(parameters: Parameters) -> list[Any] | dict[str, Any]:
    if isinstance(parameters, Mapping):
        return {name: array(one) if isinstance(one, list) else one for name, one in parameters.items()}
    return [array(one) if isinstance(one, list) else one for one in parameters]


def rows(query: str, parameters: Parameters = ()) -> list[tuple[Any, ...]]:
    with connection.cursor() as cursor:
        cursor.execute(query, _bound(parameters))
        return cursor.fetchall() if cursor.description else []


def execute(query: str, parameters: Parameters = ()) -> int:
    """Answers how many rows it touched."""
    with connection.cursor() as cursor:
        cursor.execute(query, _bound(parameters))
        return int(cursor.rowcount)


def insert(
    model: type[models.Model],
    columns: Sequence[str],
    values: Sequence[Sequence[Any]],
    *,
    on_conflict: str = "",
    returning: str = "",
) -> list[tuple[Any, ...]]:
    """Inserts rows, each a sequence of values for `columns` (names of database columns), in one statement."""
    if not values:
        return []
    kinds = _kinds(model)
    names, arrays = ", ".join(columns), ", ".join(f"%s::{kinds[column]}[]" for column in columns)
    selected = ", ".join(f"u.{column}::jsonb" if kinds[column] == "text" and column in _json(model) else f"u.{column}"
                         for column in columns)  # fmt: skip
    query = (
        f"INSERT INTO {model._meta.db_table} ({names}) SELECT {selected} FROM unnest({arrays}) AS u ({names})"  # noqa: S608  # ours
        f" {on_conflict} {f'RETURNING {returning}' if returning else ''}"
    )
    return rows(query, [list(column) for column in zip(*values, strict=True)])


def next_ids(model: type[models.Model], count: int) -> list[int]:
    """Ids set aside for rows that are about to be written and must know each other."""
    table = model._meta.db_table
    query = "SELECT nextval(pg_get_serial_sequence(%s, 'id')) FROM generate_series(1, %s)"
    return [int(row[0]) for row in rows(query, [table, count])]


def chunks(values: Sequence[Any], size: int) -> Iterable[Sequence[Any]]:
    return (values[at : at + size] for at in range(0, len(values), size))


def lock(what: str, number: int) -> None:
    """An advisory lock until the transaction ends, waited for."""
    execute("SELECT pg_advisory_xact_lock(hashtext(%s), %s::int)", [what, number % 2**31])


def try_lock(what: str, number: int) -> bool:
    """An advisory lock until the transaction ends; False when somebody else holds it."""
    return bool(rows("SELECT pg_try_advisory_xact_lock(hashtext(%s), %s::int)", [what, number % 2**31])[0][0])


_KINDS: dict[type[models.Model], dict[str, str]] = {}
_JSONS: dict[type[models.Model], frozenset[str]] = {}


def _kinds(model: type[models.Model]) -> dict[str, str]:
    """The array element type of each column; jsonb goes as text and is cast."""
    if model not in _KINDS:
        _KINDS[model] = {
            str(field.column): "text" if isinstance(field, models.JSONField) else _type(field)
            for field in model._meta.concrete_fields
        }
    return _KINDS[model]


def _json(model: type[models.Model]) -> frozenset[str]:
    if model not in _JSONS:
        _JSONS[model] = frozenset(str(f.column) for f in model._meta.concrete_fields if isinstance(f, models.JSONField))
    return _JSONS[model]


def _type(field: "models.Field[Any, Any]") -> str:
    kind = (field.rel_db_type(connection) if field.primary_key else field.db_type(connection)) or "text"
    return "text" if kind.startswith("varchar") else kind
