"""The lookup `any`: among these numbers (a set), sent as one array.

`in` sends each as a parameter of its own; for a hundred thousand of them the database takes longer to read the statement than
to answer it. A set, since Django goes through a list one by one in search of expressions.
"""

from typing import Any

from django.db.models import BigAutoField, BigIntegerField, ForeignKey, Lookup
from django.db.models.fields.related import ForeignObject

from bluffside.server import sql


class AnyOf(Lookup):
    lookup_name = "any"

    def get_prep_lookup(self) -> list[int]:
        return sorted(self.rhs)

    def get_db_prep_lookup(self, value: Any, connection: Any) -> tuple[str, tuple[Any, ...]]:
        return "%s", (value,)

    def as_sql(self, compiler: Any, connection: Any) -> tuple[str, tuple[Any, ...]]:
        left, parameters = self.process_lhs(compiler, connection)
        # As text: the driver's own way of writing a list takes longer than the query.
        return f"{left} = ANY(%s::bigint[])", (*parameters, sql.array(self.rhs))


def register() -> None:
    for field in (BigAutoField, BigIntegerField, ForeignKey, ForeignObject):
        field.register_lookup(AnyOf)
