"""Versions: what changed, in sentences; and people inside, moved, with what each would gain, lose or repeat."""

from datetime import timedelta
from typing import Any

from bluffside.core.engine.advance import advance
from bluffside.core.engine.signals import Joined, TimeReached
from bluffside.core.engine.state import State
from bluffside.core.workflow.differences import differences
from bluffside.core.workflow.moving import KEEPS_ITS_MOMENT, in_words, move_of, moved, place_map
from bluffside.core.workflow.program import compile_workflow
from tests.core.examples import ADA, ASK, MONDAY, ask

DAY = timedelta(days=1)


def waiting(*ids: str) -> list[dict[str, Any]]:
    """A text and a wait of a day for each id: "a" texts, "wa" waits."""
    return [
        step
        for id in ids
        for step in (
            {"kind": "text", "id": id, "message": {"name": id.upper(), "body": "Hi"}},
            {"kind": "wait", "id": f"w{id}", "duration": "1 day"},
        )
    ]


def test_differences_read_as_sentences() -> None:
    steps = list(ASK["steps"])
    new = ask(
        name="Ask again",
        leaves_on=[{"kind": "appointment", "what": "booked"}],
        entry={"again": "after", "after": "30 days"},
        hours={"start": "09:00", "end": "18:00"},
        steps=[
            steps[0] | {"message": {"name": "Hello", "body": "Dry again?"}},
            steps[1] | {"limit": "48 hours"},
            {"kind": "tag", "id": "new", "tag": "asked"},
        ],
        scenarios=[{"name": "Says yes"}],
    )
    assert differences(ask(), new) == [
        "Is now called “Ask again”.",
        "People may come in again 30 days after they left.",
        "No longer leaves when they reply.",
        "Now leaves when an appointment is booked.",
        "Now sends any day, 09:00 to 18:00.",
        "New scenario: “Says yes”.",
        "Changed (message): Texts Hello.",
        "Was: Has 72 hours to answer. Now: Has 48 hours to answer.",
        "New: Tags asked.",
        "Gone: Waits 2 days, then goes on at 10:00.",
        "Gone: Notes “Reached the end”",
    ]
    assert differences(ask(), ask()) == []
    swapped = ask(steps=[steps[1], steps[0], *steps[2:]])
    assert differences(ask(), swapped) == ["Lines that stayed stand in another order."]


def test_who_stands_at_a_line_that_stays_keeps_its_wait_and_gains_and_loses_what_is_below() -> None:
    old, new = (compile_workflow(ask(steps=waiting(*ids))) for ids in ("abc", "adb"))
    state = advance(old, State(MONDAY), ADA, Joined(), MONDAY).state
    assert moved(state, old, new, MONDAY + timedelta(hours=5)) == state  # it waits on as it did
    move = move_of(old, new, "wa")
    assert (move.to, move.stays) == ("wa", True)
    assert (move.gains, move.loses, move.repeats) == (("d", "wd"), ("c", "wc"), ())
    assert in_words(move, new, old) == [
        "Gains: Texts D.", "Gains: Waits 1 day.", "Loses: Texts C.",
        "Loses: Waits 1 day."]  # fmt: skip


def test_who_waits_at_a_line_that_has_changed_keeps_the_moment_they_wait_for_and_that_is_said() -> None:
    old, new = (
        compile_workflow(ask(steps=[{"kind": "wait", "id": "w", "duration": how_long}, *waiting("a")]))
        for how_long in ("5 days", "1 day")
    )
    state = State(MONDAY, "w", MONDAY, MONDAY + 5 * DAY)
    assert moved(state, old, new, MONDAY + 2 * DAY).until == MONDAY + 5 * DAY
    assert in_words(move_of(old, new, "w"), new, old) == [KEEPS_ITS_MOMENT]
    assert not in_words(move_of(old, old, "w"), old, old)


def test_who_stands_at_a_line_that_is_gone_begins_at_the_next_that_is_left() -> None:
    old, new = (compile_workflow(ask(steps=waiting(*ids))) for ids in ("abc", "ac"))
    now = MONDAY + 1.5 * DAY
    state = State(MONDAY, "wb", now, now + DAY / 2)
    after = moved(state, old, new, now)
    assert (after.place, after.arrived, after.until) == ("c", None, now)
    outcome = advance(new, after, ADA, TimeReached(), now)
    assert [effect.step for effect in outcome.effects] == ["c"]  # it is begun, not woken
    none_left = compile_workflow(ask(steps=waiting("z")))
    assert moved(state, old, none_left, now).ended == "moved to a version that has nothing left for them"


def test_a_line_done_already_that_comes_again_is_told_as_repeated() -> None:
    old, new = (compile_workflow(ask(steps=waiting(*ids))) for ids in ("abc", "cab"))
    move = place_map(old, new)["wc"]
    assert move.repeats == ("a", "wa", "b", "wb")
    assert move_of(old, new, "wc", done=frozenset({"b"})).repeats == ("b",)


def test_a_lap_counter_moves_along_with_the_loop_around_a_line() -> None:
    loop = {"kind": "repeat", "id": "r", "times": 5, "lanes": [{"id": "l", "steps": waiting("a")}]}
    old, new = compile_workflow(ask(steps=[loop])), compile_workflow(ask(steps=[loop | {"times": 3}]))
    state = State(MONDAY, "wa", MONDAY, MONDAY + DAY, round=3, loops=(("r", 3),))
    assert moved(state, old, new, MONDAY).loops == (("r", 3),)
    out = compile_workflow(ask(steps=waiting("a")))
    assert moved(state, old, out, MONDAY).loops == ()
    back = moved(State(MONDAY, "wa", MONDAY, MONDAY + DAY), out, new, MONDAY)
    assert back.loops == (("r", 1),)
