"""The expression: tests, and all / any / none of several, nested."""

from typing import Annotated, Literal

from pydantic import Field

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


class Several(Test):
    of: tuple["Condition", ...] = ()

    def seen(self, case: Case) -> dict[str, str]:
        return {name: value for part in self.of for name, value in part.seen(case).items()}

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
        return f"not ({self._joined('or')})" if self.of else "always"


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
