"""A world of many contacts and workflows: going on in one another, stopping, chains that end, dates, scores."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from typing import Any

from bluffside.core.engine.state import DEEPEST
from bluffside.core.events import Event
from bluffside.core.facts import Appointment
from bluffside.core.rehearsal.moments import Moment
from bluffside.core.rehearsal.world import World
from bluffside.core.scoring.rules import ScoreRules
from tests.core.examples import ADA, MONDAY, ask

TEXT = {"kind": "text", "id": "t", "message": {"name": "T", "body": "Hi"}}
DAY = timedelta(days=1)


def world(*workflows: Any, people: int = 1, rules: ScoreRules | None = None, **contact: Any) -> World:
    made = World(workflows, ADA.account, ADA.member, rules)
    for number in range(people):
        made.add(replace(ADA.contact, id=str(number), **contact), MONDAY)
    return made


def lived(made: World, days: int = 400) -> list[Moment]:
    return list(made.run(MONDAY + days * DAY))


def test_handing_over_goes_on_in_the_other_with_what_it_is_about_and_leaves_here() -> None:
    first = ask(name="first", steps=[TEXT, {"kind": "hand_over", "id": "h", "workflow": "second"}])
    second = ask(name="second", starts=[{"kind": "handed_over", "source": "first"}], steps=[TEXT])
    here = world(first, second)
    here.enrol("0", "first", MONDAY, about={"deal": "d7"})
    moments = lived(here)
    assert [(moment.workflow, len(moment.effects)) for moment in moments] == [("first", 2), ("second", 1)]
    assert moments[0].state.ended == "handed over to “second”"
    assert moments[1].state.about == {"deal": "d7"} and moments[1].state.depth == 1
    assert moments[1].reasons[0].sentence == "Joined: when first hands someone over."


def test_a_chain_of_workflows_that_start_one_another_ends() -> None:
    around = [
        ask(name=name, entry={"again": "always"}, starts=[{"kind": "handed_over"}, {"kind": "by_hand"}],
            steps=[{"kind": "hand_over", "id": "h", "workflow": to}])
        for name, to in (("a", "b"), ("b", "a"))
    ]  # fmt: skip
    here = world(*around)
    here.enrol("0", "a", MONDAY)
    moments = lived(here)
    assert len(moments) == DEEPEST + 1
    assert moments[-1].state.ended == "too many workflows in a chain"

    tags = [
        ask(name=f"on {here}", entry={"again": "always"}, starts=[{"kind": "tag_added", "tags": [here]}],
            steps=[{"kind": "untag", "id": "u", "tag": there}, {"kind": "tag", "id": "t", "tag": there}])
        for here, there in (("a", "b"), ("b", "a"))
    ]  # fmt: skip
    here = world(*tags)
    here.happen("0", MONDAY, Event("tag.added", MONDAY, {"tag": "a"}))
    moments = lived(here)
    assert len(moments) == DEEPEST + 2
    said = "“on b” does not start: 8 workflows have led here, one by another."
    assert (here.left_out[-1][2], moments[-1].reasons[0].sentence, moments[-1].workflow) == (said, said, "on a")


def test_stopping_others_takes_the_contact_out_of_those_named_and_of_no_other() -> None:
    long = [{"kind": "wait", "id": "w", "duration": "30 days"}, TEXT]
    stop = [{"kind": "wait", "id": "w", "duration": "1 day"}, {"kind": "stop_others", "id": "s", "workflows": ["news"]}]
    here = world(ask(name="news", steps=long), ask(name="care", steps=long), ask(name="stop", steps=stop))
    for name in ("news", "care", "stop"):
        here.enrol("0", name, MONDAY)
    ended = {moment.workflow: moment.state.ended for moment in lived(here) if moment.state.ended}
    assert ended == {"news": "stopped by “stop”", "stop": "came to the end", "care": "came to the end"}


def test_nobody_is_inside_twice_and_who_is_left_out_is_told_why() -> None:
    here = world(ask(steps=[{"kind": "wait", "id": "w", "duration": "2 days"}]))
    for day in (0, 1, 5):
        here.enrol("0", ask().name, MONDAY + day * DAY)
    assert len(lived(here)) == 2  # joins, and ends
    assert [why for _, _, why in here.left_out] == ["inside already", "was in it before, and nobody comes in twice"]


def test_tasks_go_to_members_in_turn() -> None:
    call = {"kind": "call", "id": "c", "say": "Hi", "assign": {"to": "in_turn", "members": ["Mel", "Theo", "Ines"]}}
    here = world(ask(steps=[call]), people=4)
    for number in range(4):
        here.enrol(str(number), ask().name, MONDAY + number * DAY)
    assert [moment.effects[0].assignee.members for moment in lived(here)] == [("Mel",), ("Theo",), ("Ines",), ("Mel",)]  # type: ignore[attr-defined]


def test_a_birthday_comes_round_each_year_and_follows_the_field_when_that_is_put_right() -> None:
    start = {"kind": "date_comes", "field": "birthday", "at": "08:30"}
    here = world(ask(starts=[start], entry={"again": "always"}, steps=[TEXT]), fields={"birthday": date(1990, 6, 5)})
    right = {"field": "birthday", "old": date(1990, 6, 5), "new": date(1990, 7, 9)}
    here.happen("0", MONDAY + 30 * DAY, Event("field.changed", MONDAY, right))
    assert [moment.at for moment in lived(here, 800)] == [
        datetime(2026, 7, 9, 7, 30, tzinfo=UTC),
        datetime(2027, 7, 9, 7, 30, tzinfo=UTC),
    ]


def test_an_appointment_comes_near_once_where_it_stands_in_the_end() -> None:
    visit = Appointment("v", "Taster", MONDAY + 10 * DAY)
    here = world(ask(starts=[{"kind": "appointment_near", "before": "2 days"}], steps=[TEXT]), appointments=(visit,))
    moved = {"appointment": "v", "type": "Taster", "start": MONDAY + 20 * DAY}
    here.happen("0", MONDAY + DAY, Event("appointment.moved", MONDAY, moved))
    [moment] = lived(here, 27)  # before the clocks change
    assert moment.at == MONDAY + 18 * DAY
    assert moment.state.about == {"appointment": "v"}


def test_points_by_the_accounts_rules_start_what_waits_for_a_mark_up_and_fading_down() -> None:
    rules = ScoreRules.model_validate(
        {
            "doing": [
                {"name": "clicks", "points": 20, "on": {"kind": "link_clicked"}, "half_life": "10 days", "limit": 40}
            ],
            "being": [{"name": "has a mobile", "points": 5, "when": {"test": "field", "field": "mobile"}}],
        }
    )
    hot = ask(name="hot", starts=[{"kind": "score_crossed", "way": "rises_to", "mark": 30}], steps=[TEXT])
    cold = ask(name="cold", starts=[{"kind": "score_crossed", "way": "falls_below", "mark": 15}], steps=[TEXT])
    here = world(hot, cold, rules=rules)
    for day in (0, 1):
        here.happen("0", MONDAY + day * DAY, Event("link.clicked", MONDAY, {"message": "News", "url": ""}))
    went = [(moment.workflow, moment.at - MONDAY) for moment in lived(here)]
    assert went[0] == ("hot", DAY)
    # 20 · (1 + 2^-0.1) + 5 on day 1; the 38.66 that fade are 10 after 10 · log2(3.866) = 19.5 days more.
    assert went[1][0] == "cold" and abs(went[1][1] - timedelta(days=20.508)) < timedelta(hours=1)


def test_many_contacts_live_side_by_side_and_only_time_runs_in_order() -> None:
    here = world(ask(), people=50)
    for number in range(50):
        here.enrol(str(number), ask().name, MONDAY + timedelta(minutes=7 * number))
    moments = lived(here)
    assert [moment.at for moment in moments] == sorted(moment.at for moment in moments)
    assert all(not here.inside(str(number)) for number in range(50))
