"""Conditions: each test on somebody known, what it says and saw; nesting; errors that name the place."""

from datetime import date, timedelta
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given, settings
from pydantic import TypeAdapter

from bluffside.core.conditions import AllOf, AnyOf, Case, Condition, NoneOf
from bluffside.core.conditions.base import Test
from bluffside.core.conditions.expression import Several
from bluffside.core.events import Event
from bluffside.core.facts import Account, Appointment, Consent, Contact, Deal, Facts
from bluffside.core.scoring.sheet import Score
from bluffside.core.workflow.files import read_workflow
from bluffside.core.workflow.plain_data import BadFile
from tests.core.examples import MONDAY
from tests.core.making import conditions, people

DAY = timedelta(days=1)
reader: TypeAdapter[Test] = TypeAdapter(Condition)


def happened(kind: str, days_ago: float, **data: Any) -> Event:
    return Event(kind, MONDAY - days_ago * DAY, data)


NORA = Contact(
    first_name="Nora",
    email="nora@example.com",
    zone="Australia/Hobart",  # where MONDAY, nine in London, is eight in the evening
    tags=frozenset({"crew"}),
    lists=frozenset({"regatta"}),
    owner="Mel Rowan",
    added=MONDAY - 10 * DAY,
    fields={
        "budget": Decimal("250.50"),
        "birthday": date(1996, 3, 20),
        "renewal": date(2026, 3, 20),
        "sails": True,
        "interests": ("Kayak", "Dinghy"),
        "boat": "Gaff cutter",
    },
    consents=(Consent("email", "marketing", "given"), Consent("text", "marketing", "withdrawn")),
    score=Score().plus("clicks", 40, MONDAY - 30 * DAY, half_life=timedelta(days=30)),
    deals=(
        Deal("d1", "Courses", "Quoted", MONDAY - 40 * DAY, MONDAY - 9 * DAY, Decimal(1200), "open", "Weekend", "Mel"),
        Deal("d2", "Charter", "New", MONDAY - 2 * DAY, MONDAY - 2 * DAY, Decimal(90)),
        Deal("d3", "Courses", "Done", MONDAY - 90 * DAY, MONDAY - 60 * DAY, Decimal(400), "won"),
    ),
    appointments=(
        Appointment("a", "Taster", MONDAY + 3 * DAY),
        Appointment("b", "Fitting", MONDAY - 5 * DAY, state="missed"),
    ),
    happened=(
        happened("task.done", 40, task="call"),
        happened("form.sent", 20, form="Open day"),
        happened("task.done", 12, task="call"),
        happened("message.sent", 6, message="Regatta", channel="email", purpose="marketing"),
        happened("task.done", 5, task="call"),
        happened("link.clicked", 5, message="Regatta", url="https://example.com"),
    ),
)
CASE = Case(Facts(NORA, Account("Tern", "Europe/London")), MONDAY)


@pytest.mark.parametrize(
    ("data", "holds", "said"),
    [
        ({"test": "tag", "tag": "crew"}, True, "has the tag “crew”"),
        ({"test": "tag", "tag": "crew", "has": False}, False, "lacks the tag “crew”"),
        ({"test": "list", "list": "regatta"}, True, "is on the list “regatta”"),
        # fields of every kind
        ({"test": "field", "field": "boat", "compare": "is", "value": "gaff CUTTER."}, True, "boat is “gaff CUTTER.”"),
        ({"test": "field", "field": "boat", "compare": "contains", "value": "cut"}, True, "boat contains “cut”"),
        ({"test": "field", "field": "budget", "compare": "is", "value": 250.5}, True, "budget is “250.5”"),
        ({"test": "field", "field": "budget", "compare": "more_than", "value": "300"}, False, "budget is more than “300”"),
        ({"test": "field", "field": "sails", "compare": "is", "value": True}, True, "sails is “yes”"),
        ({"test": "field", "field": "interests", "compare": "is", "value": "kayak"}, True, "interests is “kayak”"),
        ({"test": "field", "field": "interests", "compare": "any_of", "values": ["rowing", "dinghy"]}, True,
         "interests is one of “rowing” or “dinghy”"),
        ({"test": "field", "field": "renewal", "compare": "in_the_next", "value": "3 weeks"}, True,
         "renewal is in the next 3 weeks"),
        ({"test": "field", "field": "renewal", "compare": "before", "value": "2026-03-20"}, False,
         "renewal is before “2026-03-20”"),
        ({"test": "field", "field": "added", "compare": "in_the_last", "value": "10 days"}, True,
         "day added is in the last 10 days"),
        ({"test": "field", "field": "shoe size", "compare": "missing"}, True, "shoe size is missing"),
        ({"test": "field", "field": "shoe size", "compare": "is_not", "value": "41"}, True, "shoe size is not “41”"),
        ({"test": "field", "field": "shoe size", "compare": "less_than", "value": "41"}, False,
         "shoe size is less than “41”"),
        # who they are and what they agreed to
        ({"test": "reach", "channel": "text"}, False, "can be reached by text"),
        ({"test": "reach", "channel": "email"}, True, "can be reached by email"),
        ({"test": "consent", "channel": "text", "state": "withdrawn"}, True, "opted out of texts for marketing"),
        ({"test": "consent", "channel": "push", "state": "nothing"}, True,
         "has said nothing about push notices for marketing"),
        ({"test": "score", "compare": "exactly", "points": 20}, True, "score is exactly 20"),  # 40, a half-life ago
        ({"test": "owner", "member": "Mel Rowan"}, True, "Mel Rowan is responsible"),
        # any deal such that: all parts of the same one
        ({"test": "deal", "pipelines": ["Courses"], "stages": ["Quoted", "New"], "value": {"amount": 1000},
          "in_stage": {"than": "1 week"}}, True,
         "has an open deal on Courses in “Quoted” or “New”, there for more than 1 week, worth at least 1000"),
        ({"test": "deal", "pipelines": ["Charter"], "value": {"amount": 1000}}, False,
         "has an open deal on Charter, worth at least 1000"),
        ({"test": "deal", "has": False, "stages": ["New"], "age": {"than": "3 days", "longer": False}}, False,
         "has no open deal in “New”, known for at most 3 days"),
        ({"test": "deal", "state": "won", "owner": "Mel"}, False, "has a won deal, owned by Mel"),
        # appointments
        ({"test": "appointment", "types": ["Taster"], "within": "3 days"}, True,
         "has a “Taster” appointment in the next 3 days"),
        ({"test": "appointment", "states": ["missed"], "when": "past", "within": "2 days"}, False,
         "has a missed appointment in the last 2 days"),
        # what happened
        ({"test": "count", "activity": "call", "compare": "fewer_than", "number": 3, "within": "30 days"}, True,
         "fewer than 3 calls in 30 days"),
        ({"test": "count", "activity": "call", "compare": "fewer_than", "number": 3, "within": "60 days"}, False,
         "fewer than 3 calls in 60 days"),
        ({"test": "count", "activity": "form", "about": "Open day", "within": "1 month"}, True,
         "at least 1 form “Open day” in 1 month"),
        ({"test": "message", "message": "Regatta", "did": "clicked", "within": "5 days"}, False,
         "clicked in “Regatta” in the last 5 days"),
        ({"test": "message", "message": "Regatta", "did": "answered", "yes": False}, True, "did not answer “Regatta”"),
        ({"test": "event", "event": "form.sent", "about": "Open day", "within": "7 days", "yes": False}, True,
         "no form sent “Open day” in the last 7 days"),
        # the moment, where they are
        ({"test": "time", "start": "18:00", "end": "21:00"}, True, "it is between 18:00 and 21:00 where they are"),
        ({"test": "time", "start": "22:00", "end": "08:00"}, False, "it is between 22:00 and 08:00 where they are"),
        ({"test": "weekday", "weekdays": ["mon", "tue"]}, True, "it is Monday, Tuesday where they are"),
    ],
)  # fmt: skip
def test_each_test_holds_and_reads(data: dict[str, Any], holds: bool, said: str) -> None:
    condition = reader.validate_python(data)
    assert condition.holds(CASE) is holds
    assert condition.describe() == said
    assert all(condition.seen(CASE).values())


@given(conditions, people())
@settings(max_examples=150)
def test_nested_conditions_are_the_logic_of_their_parts(data: dict[str, Any], facts: Facts) -> None:
    case = Case(facts, MONDAY)

    def truth(one: Test) -> bool:
        """By the definition of all, any and none, over what the innermost tests say."""
        if not isinstance(one, Several):
            return one.holds(case)
        parts = [truth(part) for part in one.of]
        return {AllOf: all(parts), AnyOf: any(parts), NoneOf: not any(parts)}[type(one)]

    condition = reader.validate_python(data)
    assert condition.holds(case) == truth(condition)
    assert condition.describe()
    assert reader.validate_python(condition.model_dump(mode="json")) == condition


@pytest.mark.parametrize(
    ("when", "place", "says"),
    [
        ("{test: tag, tga: x}", "line 7, steps.0.lanes.0.when.tga", "Extra inputs"),
        ("{test: feeling}", "steps.0.lanes.0.when", "feeling"),
        ("{test: all, of: [{test: tag, tag: x}, {test: field, field: budget, compare: more_than, value: lots}]}",
         "steps.0.lanes.0.when.of.1", "“lots” is not a number"),
        ("{test: any, of: [{test: field, field: born, compare: before, value: 1 April}]}",
         "when.of.0", "write one like 2026-03-01"),
        ("{test: deal, age: {than: a while}}", "when.age.than", "write one like"),
        ("{test: weekday, weekdays: []}", "when.weekdays", "at least one weekday"),
    ],
)  # fmt: skip
def test_an_error_in_a_condition_names_its_place(when: str, place: str, says: str) -> None:
    text = f"name: x\nsteps:\n- kind: choose\n  id: c\n  lanes:\n  - id: l\n    when: {when}\n"
    with pytest.raises(BadFile) as error:
        read_workflow(text)
    [fault] = error.value.faults
    assert place in fault and says in fault


def test_a_condition_says_which_facts_must_be_loaded_for_it() -> None:
    needs = reader.validate_python(
        {
            "test": "all",
            "of": [{"test": "deal"}, {"test": "none", "of": [{"test": "count"}, {"test": "tag", "tag": "x"}]}],
        }
    ).all_needs()
    assert needs == {"deals", "happened", "tags"}
