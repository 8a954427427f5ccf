"""Values of an account's own fields and scores: plain JSON in the database, typed in the core.

A field's kind says how its JSON is read. A value of a field that nobody declared says its type by itself: a number is
a number, text that is an ISO date is a date.
"""

import re
from collections.abc import Mapping
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Any

from bluffside.core.facts import FieldValue
from bluffside.core.scoring.sheet import Earned, Score
from bluffside.server.people.field_kinds import FIELD_KINDS

_DATE = re.compile(r"\d{4}-\d{2}-\d{2}")


def read_fields(data: Mapping[str, Any], kinds: Mapping[str, str]) -> dict[str, FieldValue]:
    """`data` as json.loads with Decimal for numbers gives it."""
    return {name: read_value(value, kinds.get(name, "")) for name, value in data.items()}


def read_value(value: Any, kind: str) -> FieldValue:
    if isinstance(value, list):
        return tuple(map(str, value))
    if isinstance(value, bool) or value is None:
        return value
    if isinstance(value, int | float | Decimal):
        return Decimal(str(value))
    declared = FIELD_KINDS.get(kind)
    if (declared is None or declared.dated) and _DATE.fullmatch(value):
        try:
            return date.fromisoformat(value)
        except ValueError:
            return str(value)
    return str(value)


def plain_value(value: FieldValue) -> Any:
    """As JSON takes it. A number of more digits than a double holds is kept as text."""
    if isinstance(value, tuple):
        return list(value)
    if isinstance(value, Decimal):
        whole = int(value) if value == value.to_integral_value() else None
        return whole if whole is not None else float(value) if Decimal(str(float(value))) == value else str(value)
    return value.isoformat() if isinstance(value, date) else value


def read_score(data: list[list[Any]]) -> Score:
    return Score(
        tuple(
            Earned(
                rule,
                float(points),
                datetime.fromisoformat(as_of),
                timedelta(seconds=float(half)) if half else None,
                *of,
            )
            for rule, points, as_of, half, *of in data
        )
    )


def plain_score(score: Score) -> list[list[Any]]:
    """Rule, points, as of, half-life in seconds; and which score, where it is not the lead score."""
    return [
        [one.rule, one.points, one.as_of.isoformat(), one.half_life.total_seconds() if one.half_life else None]
        + ([one.score] if one.score else [])
        for one in score.earned
    ]


def in_words(value: Any, between: str = ", ") -> str:
    """A field's plain value as people type it; empty for none."""
    if isinstance(value, list):
        return between.join(map(str, value))
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "" if value is None else str(value)
