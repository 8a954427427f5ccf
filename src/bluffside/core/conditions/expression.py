"""The expression: tests, and all / any / none of several, nested."""

from collections.abc import Iterator
from datetime import datetime
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from bluffside.core.conditions.activity import CountTest, EventTest, MessageTest
from bluffside.core.conditions.base import Case, Need, Test
from bluffside.core.conditions.clock import TimeTest, WeekdayTest
from bluffside.core.conditions.deals import AppointmentTest, DealTest
from bluffside.core.conditions.person import (
    ConsentTest,
    FieldTest,
    ListTest,
    OwnerTest,
    ReachTest,
    ScoreTest,
    TagTest,
)

MOST_TESTS = 200
DEEPEST = 8


class Several(Test):
    of: tuple["Condition", ...] = Field(default=(), max_length=MOST_TESTS)

    @model_validator(mode="after")
    def _is_bounded(self) -> Self:
        tests, depth = self._size()
        if tests > MOST_TESTS:
            raise ValueError(f"a condition has at most {MOST_TESTS} tests; this has {tests:,}")
        if depth > DEEPEST:
            raise ValueError(f"conditions in conditions go at most {DEEPEST} deep")
        return self

    def _size(self) -> tuple[int, int]:
        """How many tests it has, and how deep they stand."""
        inner = [part._size() if isinstance(part, Several) else (1, 0) for part in self.of]
        return sum(tests for tests, _ in inner), 1 + max((depth for _, depth in inner), default=0)

    def seen(self, case: Case) -> dict[str, str]:
        return {name: value for part in self.of for name, value in part.seen(case).items()}

    def looks_back_on(self) -> frozenset[str]:
        return frozenset().union(*(part.looks_back_on() for part in self.of))

    def turns_at(self, case: Case) -> Iterator[datetime]:
        for part in self.of:
            yield from part.turns_at(case)

    def missing(self) -> str:
        return next((missing for part in self.of if (missing := part.missing())), "")

    def all_needs(self) -> frozenset[Need]:
        return frozenset().union(*(part.all_needs() for part in self.of))

    def _joined(self, word: str) -> str:
        return f" {word} ".join(f"({p.describe()})" if isinstance(p, Several) else p.describe() for p in self.of)


class AllOf(Several):
    test: Literal["all"] = "all"

    def holds(self, case: Case) -> bool:
        return all(part.holds(case) for part in self.of)

    def describe(self) -> str:
        return self._joined("and") or "always"


class AnyOf(Several):
    test: Literal["any"] = "any"

    def holds(self, case: Case) -> bool:
        return any(part.holds(case) for part in self.of)

    def describe(self) -> str:
        return self._joined("or") or "never"


class NoneOf(Several):
    test: Literal["none"] = "none"

    def holds(self, case: Case) -> bool:
        return not any(part.holds(case) for part in self.of)

    def describe(self) -> str:
        if not self.of:
            return "always"
        return f"{'none of this' if len(self.of) > 1 else 'not so'}: {self._joined('or')}"


TESTS: tuple[type[Test], ...] = (
    TagTest, FieldTest, ListTest, ReachTest, ConsentTest, ScoreTest, OwnerTest, DealTest, AppointmentTest,
    CountTest, MessageTest, EventTest, TimeTest, WeekdayTest,
)  # fmt: skip
Condition = Annotated[
    TagTest | FieldTest | ListTest | ReachTest | ConsentTest | ScoreTest | OwnerTest | DealTest | AppointmentTest
    | CountTest | MessageTest | EventTest | TimeTest | WeekdayTest | AllOf | AnyOf | NoneOf,
    Field(discriminator="test"),
]  # fmt: skip

for _model in (Several, AllOf, AnyOf, NoneOf):
    _model.model_rebuild(_types_namespace={"Condition": Condition})
