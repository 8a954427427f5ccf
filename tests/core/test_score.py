"""Lead score: the closed form against the sum of every event by itself, limits, the make-up, and falling below a mark."""

from datetime import timedelta
from itertools import pairwise
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.conditions import Case
from bluffside.core.events import Event
from bluffside.core.facts import Appointment, Deal, Facts
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.scoring.sheet import Score
from tests.core.examples import ADA, MONDAY
from tests.core.making import ZONES

HALF_LIVES = [None, timedelta(days=7), timedelta(days=30)]
earnings = st.lists(
    st.tuples(st.integers(0, 2), st.floats(-50, 50), st.integers(0, 60 * 24 * 90)).map(
        lambda one: (one[0], round(one[1], 2), MONDAY + timedelta(minutes=one[2]))
    ),
    max_size=20,
)


def scored(earned: list) -> Score:
    score = Score()
    for rule, points, at in sorted(earned, key=lambda one: one[2]):
        score = score.plus(f"rule {rule}", points, at, HALF_LIVES[rule])
    return score


@given(earnings, st.integers(0, 365))
def test_the_closed_form_is_the_sum_of_every_event_faded_by_itself(earned: list, days: int) -> None:
    """Exponential decay: p · 2^(-t/h), by its definition, one event at a time."""
    instant = MONDAY + timedelta(days=90 + days)
    one_by_one = sum(
        points * (2 ** (-(instant - at) / HALF_LIVES[rule]) if HALF_LIVES[rule] else 1) for rule, points, at in earned
    )
    score = scored(earned)
    assert abs(score.at(instant) - one_by_one) < 1e-6
    assert abs(sum(points for _, points in score.make_up(instant)) - score.at(instant)) < 1e-9
    assert len(score.earned) <= 3  # whatever has happened, one entry a rule


@given(st.lists(st.tuples(st.integers(0, 20), st.integers(0, 40)), max_size=20))
def test_a_rule_never_stands_above_its_limit(earned: list[tuple[int, int]]) -> None:
    score, now = Score(), MONDAY
    for hours, points in earned:
        now += timedelta(hours=hours)
        score = score.plus("clicks", points, now, timedelta(days=7), limit=30)
        assert score.at(now) <= 30


@given(st.floats(1, 100), st.floats(1, 99), st.integers(1, 60))
def test_it_says_when_fading_alone_brings_it_to_a_mark(points: float, mark: float, days: int) -> None:
    score = Score().plus("r", points, MONDAY, timedelta(days=days))
    at = score.crosses(mark, MONDAY)
    if points <= mark:
        assert at is None
    else:
        assert at is not None
        assert score.at(at) <= mark < score.at(at - timedelta(seconds=2))


@given(
    st.lists(st.tuples(st.floats(-60, 90), st.integers(1, 60)), min_size=1, max_size=4),
    st.floats(1, 60),
    st.floats(0, 1),
)
def test_when_it_falls_is_the_same_from_wherever_one_looks(
    earned: list[tuple[float, int]], mark: float, part: float
) -> None:
    """So that what came once is known not to come again; also with points below nothing that fade, which may lift it."""
    score, begin = Score(), MONDAY + timedelta(microseconds=431)
    for number, (points, days) in enumerate(earned):
        score = score.plus(f"r{number}", points, begin, timedelta(days=days))
    at = score.crosses(mark, begin)
    if at is None:
        return
    assert at.microsecond == 0 and score.at(at) <= mark < score.at(at - timedelta(seconds=2))
    between = begin + (at - begin) * min(part, 0.999)
    assert score.at(between) <= mark or score.crosses(mark, between) == at


def test_what_stays_never_falls_below() -> None:
    assert Score().plus("r", 50, MONDAY).crosses(20, MONDAY) is None


RULES = ScoreRules.model_validate(
    {
        "being": [{"name": "left a number", "points": 10, "when": {"test": "field", "field": "mobile"}}],
        "doing": [
            {"name": "opened the price list", "points": 15, "limit": 25,
             "on": {"kind": "link_clicked", "url": "prices"}},
            {"name": "came", "points": 30, "half_life": "30 days", "on": {"kind": "appointment", "what": "attended"}},
        ],
    }
)  # fmt: skip


def test_rules_give_points_for_being_and_doing_and_say_what_a_score_is_made_of() -> None:
    click = {"message": "News", "url": "https://tern.example.com/prices"}
    events = [
        Event("link.clicked", MONDAY, click),
        Event("link.clicked", MONDAY, click | {"url": "https://tern.example.com/tides"}),
        Event("link.clicked", MONDAY, click),
        Event("appointment.attended", MONDAY, {"appointment": "a", "type": "Taster"}),
    ]
    now = MONDAY + timedelta(days=30)
    score = RULES.of_history(ADA, events, now)
    assert score.make_up(now) == [("opened the price list", 25), ("came", 15), ("left a number", 10)]
    assert [RULES.mark(points) for points in (-1, 0, 29.9, 30, 75)] == ["", "cool", "cool", "warm", "ready"]
    gone = Facts(type(ADA.contact)(score=score), ADA.account)
    assert RULES.standing(gone, now).at(now) == 40  # the number is gone, and its points with it
    assert all(one >= two for (_, one), (_, two) in pairwise(score.make_up(now)))


@given(
    st.lists(
        st.tuples(st.sampled_from(["", "Racing"]), st.sampled_from(["keen", "crew"]), st.integers(0, 40)), max_size=12
    ),
    st.integers(0, 60),
)
def test_each_score_is_what_it_would_be_alone(told: list[tuple[str, str, int]], days: int) -> None:
    """Two scores with a rule of one name each, and lines of a workflow that add to either."""
    rules = ScoreRules.model_validate({"further": ["Racing"], "doing": [
        {"name": "tagged", "points": points, "score": score, "on": {"kind": "tag_added", "tags": [tag]}, "half_life": "20 days"}
        for points, score, tag in ((10, "", "keen"), (7, "Racing", "crew"))
    ]})  # fmt: skip
    alone = {name: rules.of(name) for name in rules.scores}
    both, each, now = Score(), dict.fromkeys(rules.scores, Score()), MONDAY + timedelta(days=days)
    for to, tag, day in sorted(told, key=lambda one: one[2]):
        event = Event("tag.added", MONDAY + timedelta(days=day), {"tag": tag})
        both = rules.after(both, event, Facts()).plus("a line", 3, event.at, score=to)
        for name, own in alone.items():
            each[name] = own.after(each[name], event, Facts())
        each[to] = each[to].plus("a line", 3, event.at, score=to)
    for name in rules.scores:
        assert both.make_up(now, name) == each[name].make_up(now, name)
        assert both.crosses(15, now, name) == each[name].crosses(15, now, name)


TIMED = st.sampled_from([
    {"test": "field", "field": "renewal", "compare": "in_the_last", "value": "1 month"},
    {"test": "field", "field": "renewal", "compare": "in_the_next", "value": "36 hours"},
    {"test": "deal", "in_stage": {"than": "1 month"}},
    {"test": "deal", "age": {"than": "90 minutes", "longer": False}},
    {"test": "appointment", "when": "to_come"},
    {"test": "appointment", "when": "to_come", "within": "1 month"},
    {"test": "appointment", "when": "past", "within": "2 days"},
    {"test": "count", "activity": "form", "compare": "fewer_than", "number": 2, "within": "1 month"},
    {"test": "event", "event": "form.sent", "within": "2 days"},
    {"test": "message", "did": "clicked", "within": "3 hours"},
    {"test": "score", "compare": "at_least", "points": 10},
    {"test": "score", "compare": "more_than", "points": 5},
])  # fmt: skip
MINUTES = st.integers(-100 * 1440, 100 * 1440).map(lambda some: timedelta(minutes=some))


@given(
    st.lists(TIMED, min_size=1, max_size=3), st.sampled_from(["all", "any", "none"]), st.lists(MINUTES, min_size=4, max_size=4),
    st.sampled_from(ZONES), st.lists(st.floats(0, 1), min_size=5, max_size=5),
)  # fmt: skip
def test_nothing_comes_out_otherwise_between_the_moments_at_which_it_may(
    tests: list[dict[str, Any]], way: str, at: list[timedelta], zone: str, places: list[float]
) -> None:
    """In zones whose clocks change; the moments are whole seconds."""
    rule = {"name": "r", "points": 1, "when": {"test": way, "of": tests}}
    rules = ScoreRules.model_validate({"being": [rule]})
    moments = [MONDAY + one for one in at]
    ada = ADA.contact.changed(
        zone=zone,
        fields={"renewal": moments[0].date()},
        deals=(Deal("d", "Courses", "New", min(moments[:2]), max(moments[:2])),),
        appointments=(Appointment("a", "Taster", moments[2]),),
        happened=tuple(
            Event(kind, one, {"message": "M"})
            for one in sorted(moments)
            for kind in ("form.sent", "link.clicked")
            if one <= MONDAY
        ),
        score=Score().plus("x", 25, MONDAY, timedelta(days=9)),
    )
    facts, when, now = Facts(ada), rules.being[0].when, MONDAY
    for _ in range(20):
        turns = rules.turns_at(facts, now)
        end = turns or now + timedelta(days=400)
        here = when.holds(Case(facts, now))
        for place in places:
            between = now + place * (end - timedelta(seconds=1) - now)
            assert when.holds(Case(facts, between)) == here, (now, between, turns)
        if turns is None:
            break
        now = turns
