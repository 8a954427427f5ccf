"""What a workflow is for, and when somebody has reached it."""

from datetime import timedelta
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.conditions import Case
from bluffside.core.events import Event
from bluffside.core.facts import Contact, Facts
from bluffside.core.rehearsal.scenarios import play_all
from bluffside.core.workflow.aim import Aim
from bluffside.core.workflow.checks import check
from bluffside.core.workflow.differences import differences
from bluffside.core.workflow.files import read_workflow, write_workflow
from bluffside.core.workflow.reading import read
from bluffside.core.workflow.references import references, renamed
from tests.core.examples import MONDAY, ask

BOOKED = {"kind": "appointment", "what": "booked", "type": "Course"}
WON = {"kind": "deal", "what": "won"}
AIM = {"happens": [BOOKED], "within": "3 days"}


def at(hours: float, kind: str = "appointment.booked", **data: Any) -> Event:
    return Event(kind, MONDAY + timedelta(hours=hours), {"type": "Course", **data})


def case(event: Event) -> Case:
    return Case(Facts(Contact(zone="Europe/London")), event.at)


@pytest.mark.parametrize(
    ("hours", "data", "reached"),
    [
        (0, {}, False),  # what brings somebody in is not what comes of it
        (0.1, {}, True),
        (72, {}, True),
        (72.1, {}, False),
        (-1, {}, False),
        (5, {"type": "Taster"}, False),
    ],
)
def test_it_is_reached_after_coming_in_and_within_its_time_alone(
    hours: float, data: dict[str, Any], reached: bool
) -> None:
    event = at(hours, **data)
    assert Aim.model_validate(AIM).reached(MONDAY, event, case(event)) is reached


def test_what_becomes_of_another_deal_does_not_count_where_each_deal_comes_in() -> None:
    aim = Aim.model_validate({"happens": [WON]})
    won = at(1, "deal.won", deal="one", pipeline="Courses")
    assert [aim.reached(MONDAY, won, case(won), deal) for deal in ("", "one", "two")] == [True, True, False]


def test_it_counts_for_what_was_paid_else_what_the_deal_is_worth_else_what_the_aim_says() -> None:
    aim = Aim.model_validate(AIM | {"worth": "250"})
    deals = {"one": Decimal(900)}
    bought, won = at(1, "purchase.made", amount="120.50"), at(1, "deal.won", deal="one")
    assert [aim.value(event, deals) for event in (bought, won, at(1))] == [
        Decimal("120.50"),
        Decimal(900),
        Decimal(250),
    ]


def test_it_is_said_wherever_the_workflow_is_read_and_goes_into_a_file_and_back() -> None:
    workflow = ask(aim=AIM | {"happens": [BOOKED, WON]})
    said = "Reaches its aim when Course is booked or when a deal on any pipeline is won, within 3 days."
    assert said in read(workflow, MONDAY, "Europe/London").summary
    assert f"Now r{said[1:]}" in differences(ask(), workflow)
    assert differences(workflow, ask()) == ["Has no aim any more."]
    assert read_workflow(write_workflow(workflow, "yaml")) == workflow
    assert ("appointment", "Course") in [(one.kind, one.name) for one in references(workflow)]
    assert "Week course" in read(renamed(workflow, {("appointment", "Course"): "Week course"}), MONDAY, "UTC").summary


@pytest.mark.parametrize(
    ("aim", "code"),
    [
        ({"happens": []}, "aim-incomplete"),
        ({"happens": [{"kind": "tag_added"}]}, "aim-incomplete"),
        ({"happens": [{"kind": "tag_added", "tags": ["wants a course"]}]}, "reaches-by-itself"),
        ({"happens": [BOOKED]}, ""),
    ],
)
def test_checks_of_an_aim(aim: dict[str, Any], code: str) -> None:
    found = {one.code for one in check(ask(aim=aim))}
    assert found & {"aim-incomplete", "reaches-by-itself"} == ({code} if code else set())


@pytest.mark.parametrize(
    ("events", "expect", "failure"),
    [
        ([{"after": "2 days", "book": "Course", "start": "2026-03-09T10:00"}], {"aim": True, "by_day": 2}, ""),
        ([{"after": "2 days", "book": "Course", "start": "2026-03-09T10:00"}], {"aim": False},
         "Expected: the aim is not reached. It was reached on day 2 at 09:00."),
        ([{"after": "4 days", "book": "Course", "start": "2026-03-09T10:00"}], {"aim": False}, ""),
        # Who has left by a reply may still reach it.
        ([{"after": "1 hour", "reply": "STOP"}, {"after": "1 day", "book": "Course", "start": "2026-03-09T10:00"}],
         {"aim": True, "on_day": 1}, ""),
        ([], {"aim": True}, "Expected: the aim is reached. It was not reached."),
    ],
)  # fmt: skip
def test_scenarios_expect_it(events: list[dict[str, Any]], expect: dict[str, Any], failure: str) -> None:
    scenario = {
        "name": "s",
        "contact": {"first_name": "Wren", "mobile": "+447700900077"},
        "events": events,
        "expect": [expect],
    }
    [verdict] = play_all(ask(aim=AIM, scenarios=[scenario]))
    assert verdict.failures == ((failure,) if failure else ())


@given(st.integers(-200, 2_000), st.integers(1, 60))
def test_a_later_end_takes_nobody_away(hours: int, days: int) -> None:
    event = at(hours)
    shorter, longer = (Aim.model_validate(AIM | {"within": f"{n} days"}) for n in (days, days + 1))
    assert shorter.reached(MONDAY, event, case(event)) <= longer.reached(MONDAY, event, case(event))
