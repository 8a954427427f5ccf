"""Pieces of queries that conditions are put together from."""

from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db.backends.base.base import BaseDatabaseWrapper
from django.db.models import (
    BooleanField,
    DateTimeField,
    Exists,
    F,
    FloatField,
    Func,
    Q,
    QuerySet,
    TextField,
)
from django.db.models import DecimalField as NumberField
from django.db.models import Value as Literal
from django.db.models.expressions import Combinable
from django.db.models.functions import Cast
from django.db.models.lookups import Exact, GreaterThan, GreaterThanOrEqual, LessThan
from django.db.models.sql.compiler import SQLCompiler

from bluffside.core.conditions.base import HowMany

ALWAYS, NEVER = ~Q(pk__in=[]), Q(pk__in=[])


def all_of(parts: Any) -> Q:
    found = ALWAYS
    for part in parts:
        found = part if found is ALWAYS else found & part
    return found


def any_of(parts: Any) -> Q:
    found = NEVER
    for part in parts:
        found = part if found is NEVER else found | part
    return found


def whether(test: Q | Exists, so: bool) -> Q:
    return Q(test) if so else ~Q(test)


def is_true(function: str, *of: Any, **template: Any) -> Q:
    return Q(Func(*of, function=function, output_field=BooleanField(), **template))


def own_field(field: str) -> Combinable:
    """A field of the account's, as JSON; null where it has none."""
    return Func(F("fields"), Literal(field), template="(%(expressions)s)", arg_joiner=" -> ", output_field=TextField())


def is_equal(value: Combinable, to: str) -> Func:
    return Func(value, Literal(to), template="(%(expressions)s)", arg_joiner=" = ", output_field=BooleanField())


def score_at(instant: datetime, score: str = "") -> Func:
    """A contact's lead score then, or another by its name."""
    return _ScoreAt(F("score"), Cast(Literal(instant), DateTimeField()), Literal(score), output_field=FloatField())


class _ScoreAt(Func):
    """core.scoring.sheet, operation by operation. Written out where it stands, since PostgreSQL calls a function with a subquery in it
    for each row: that took six times as long (bench people). OFFSET keeps `halved` from being worked out three times."""

    template = """
        (CASE WHEN {0} = '[]'::jsonb THEN 0 ELSE (
            SELECT coalesce(sum(CASE WHEN x.halved IS NULL OR x.halved <= 0 THEN x.points
                                     WHEN x.halved < 1000 THEN x.points * power(2::float8, -x.halved) ELSE 0 END), 0)
              FROM (SELECT (e.one ->> 1)::float8 AS points,
                           (extract(epoch FROM {1} - (e.one ->> 2)::timestamptz) * 1000000)::bigint::float8
                           / nullif(round((e.one ->> 3)::float8 * 1000000), 0) AS halved
                      FROM jsonb_array_elements({0}) AS e (one)
                     WHERE coalesce(e.one ->> 4, '') = {2} OFFSET 0) AS x) END)
    """

    def as_sql(self, compiler: SQLCompiler, connection: BaseDatabaseWrapper, **_: Any) -> tuple[str, tuple[Any, ...]]:  # type: ignore[override]
        (score, none), (at, instant), (which, name) = map(compiler.compile, self.get_source_expressions())
        return self.template.format(score, at, which), (*none, *instant, *none, *name)


def numeric(number: Decimal) -> Combinable:
    return Func(Literal(f"{number:f}"), template="(%(expressions)s)::numeric", output_field=NumberField())


_COMPARE: dict[HowMany, type] = {"at_least": GreaterThanOrEqual, "fewer_than": LessThan, "more_than": GreaterThan}


def how_often(found: QuerySet[Any], how: HowMany, number: int) -> Q:
    """How many rows there are against a number. One is looked for first: that can be found out for everybody at once."""

    def at_least(number: int) -> Q:
        if number <= 0:
            return ALWAYS
        some = Q(Exists(found))
        return some if number == 1 else some & Q(Exists(found.order_by("at", "id")[number - 1 : number]))

    match how:
        case "at_least":
            return at_least(number)
        case "more_than":
            return at_least(number + 1)
        case "fewer_than":
            return ~at_least(number)
        case "exactly":
            return at_least(number) & ~at_least(number + 1)


def compared(left: Combinable, how: HowMany, right: Combinable) -> Any:
    if how == "exactly":
        return Q(Exact(left, right))
    return Q(_COMPARE[how](left, right))
