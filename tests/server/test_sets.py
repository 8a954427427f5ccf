"""What the server's set-based writing, months, tokens and log lines must hold for anything."""

import json
import logging
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from typing import Any

import pytest
from django.db import transaction
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.core.engine.effects import Assignee, MakeTask
from bluffside.core.scoring.sheet import Score
from bluffside.server import sql
from bluffside.server.events.models import Event
from bluffside.server.events.partitions import make_months
from bluffside.server.events.stream import Happened, record
from bluffside.server.logs import JsonLines
from bluffside.server.messaging import links
from bluffside.server.people.signed import BadToken
from bluffside.server.people.values import plain_score, plain_value, read_score, read_value
from bluffside.server.practice import clock
from bluffside.server.workflows.rotation import Rotations
from tests.server.conftest import House

words = st.text(st.characters(codec="utf-8", exclude_characters="\0"), max_size=30)
instants = st.datetimes(datetime(1970, 1, 1), datetime(2200, 1, 1), timezones=st.just(UTC))
in_database = settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])


@in_database
@given(
    texts=st.lists(st.none() | words | st.sampled_from(["NULL", "{}", '"', "\\", "a,b", "'", "%s"]), max_size=6),
    numbers=st.lists(st.none() | st.integers(-(2**60), 2**60), max_size=6),
    times=st.lists(st.none() | instants, max_size=6),
    truths=st.lists(st.booleans() | st.none(), max_size=6),
)
def test_arrays_come_back_as_they_were_sent(
    db: None, texts: list[Any], numbers: list[Any], times: list[Any], truths: list[Any]
) -> None:
    query = "SELECT %s::text[], %s::bigint[], %s::timestamptz[], %s::boolean[]"
    assert sql.rows(query, [texts, numbers, times, truths]) == [(texts, numbers, times, truths)]


@given(st.recursive(words | st.integers() | st.none(), lambda inner: st.lists(inner) | st.dictionaries(words, inner)))
@in_database
def test_json_that_is_written_can_be_read_whatever_people_wrote(db: None, value: Any) -> None:
    kept = sql.rows("SELECT %s::jsonb::text", [sql.to_json({"value": value, "nul": "a\0b"})])[0][0]
    assert json.loads(kept) == {"value": value, "nul": "ab"}


typed = st.one_of(
    st.tuples(st.just("text"), words.filter(bool)),
    st.tuples(st.just("number"), st.decimals(allow_nan=False, allow_infinity=False, places=4, min_value=-(10**9), max_value=10**9)),
    st.tuples(st.just("date"), st.dates(date(1900, 1, 1))),
    st.tuples(st.just("yes_no"), st.booleans()),
    st.tuples(st.just("choices"), st.lists(words, max_size=3).map(tuple)),
)  # fmt: skip


@given(typed)
def test_a_field_s_value_is_read_as_the_kind_it_was_written_as(one: tuple[str, Any]) -> None:
    kind, value = one
    read = read_value(json.loads(json.dumps(plain_value(value)), parse_float=Decimal), kind)
    assert read == value and type(read) is type(value)


@given(
    st.lists(st.tuples(words, st.floats(-1e6, 1e6), instants, st.none() | st.timedeltas(timedelta(1), timedelta(999))))
)
def test_a_score_comes_back_as_it_was(earned: list[tuple[str, float, datetime, timedelta | None]]) -> None:
    score = Score()
    for rule, points, at, half_life in earned:
        score = score.plus(rule, points, at, half_life)
    assert read_score(json.loads(json.dumps(plain_score(score)))) == score


@given(st.integers(1, 2**50), st.integers(1, 2**50), st.integers(1, 400), st.integers(0, 200))
def test_a_token_says_what_it_was_made_for_and_no_letter_of_it_can_be_changed(
    account: int, message: int, number: int, place: int
) -> None:
    token = links.link_token(account, message, number)
    assert links.read_link(token) == (account, message, number)
    place %= len(token)
    changed = token[:place] + ("a" if token[place] != "a" else "b") + token[place + 1 :]
    for bad in (changed, token[:-1], f"{token}a", ""):
        with pytest.raises(BadToken):
            links.read_link(bad)
    with pytest.raises(BadToken):  # nor is one good for something else
        links.read_unsubscribe(token)


@pytest.mark.parametrize(
    ("method", "headers", "robot"),
    [
        ("GET", {"User-Agent": "Mozilla/5.0 (iPhone; CPU iPhone OS 19_0 like Mac OS X) AppleWebKit/605"}, False),
        ("GET", {"User-Agent": "Mozilla/5.0 (compatible; ExampleBot/2.1)"}, True),
        ("GET", {"User-Agent": "Mozilla/5.0", "Sec-Purpose": "prefetch"}, True),
        ("HEAD", {"User-Agent": "Mozilla/5.0"}, True),
        ("GET", {}, True),
    ],
)
def test_obvious_robots_are_told_apart(method: str, headers: dict[str, str], robot: bool) -> None:
    assert links.is_robot(method, headers) is robot


# ---- months


def test_what_comes_before_its_month_is_made_moves_into_it(house: House) -> None:
    long_ago = datetime(2019, 3, 5, tzinfo=UTC)
    with clock.at(long_ago):
        record(house.sailing, [Happened("note.added", 1, {"text": "old"})])
    in_month = "SELECT tableoid::regclass::text FROM events_event WHERE at = %s"
    assert sql.rows(in_month, [long_ago]) == [("events_event_rest",)]
    assert make_months(date(2019, 2, 1), date(2019, 4, 30)) == 6  # three months of two tables
    assert make_months(date(2019, 2, 1), date(2019, 4, 30)) == 0
    assert sql.rows(in_month, [long_ago]) == [("events_event_2019_03",)]
    assert Event.objects.get(kind="note.added").data == {"text": "old"}
    plan = sql.rows("EXPLAIN SELECT 1 FROM events_event WHERE at >= '2019-03-01' AND at < '2019-04-01'")
    assert "2019_02" not in str(plan) and "2019_03" in str(plan)


# ---- whose turn


def test_members_take_turns_across_batches_and_a_batch_that_is_undone_takes_none(house: House) -> None:
    effect = MakeTask("s", 1, "call", "t", assignee=Assignee("in_turn", ("Ana", "Bo", "Cy")))

    def take(count: int) -> list[str]:
        turns = Rotations(house.sailing)
        names = [turns.resolved(effect).assignee.members[0] for _ in range(count)]  # type: ignore[attr-defined]
        turns.write()
        return names

    assert take(4) == ["Ana", "Bo", "Cy", "Ana"]
    with transaction.atomic():
        assert take(1) == ["Bo"]
        transaction.set_rollback(True)
    assert take(2) == ["Bo", "Cy"]


# ---- logs


def test_a_log_line_is_one_object_with_the_account_and_the_enrolment_it_is_about() -> None:
    record = logging.makeLogRecord(
        {"msg": "set %s", "args": ("aside",), "levelname": "ERROR", "name": "bluffside.engine"}
    )
    record.account, record.enrolment = "sailing", 7
    line = JsonLines().format(record)
    assert "\n" not in line
    assert json.loads(line) | {"at": ""} == {
        "at": "", "level": "error", "from": "bluffside.engine", "says": "set aside", "account": "sailing", "enrolment": 7,
    }  # fmt: skip
