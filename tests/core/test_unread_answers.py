"""Answers that a person has to read: what no lane takes, and what may mean that somebody wants no more."""

from datetime import timedelta
from typing import Any

import pytest

from bluffside.core.engine.effects import AddNote
from bluffside.core.engine.signals import Replied
from bluffside.core.rehearsal.rehearse import rehearse
from bluffside.core.rehearsal.scenarios import Verdict, play_all
from tests.core.examples import ADA, MONDAY, ask

BELOW = {"kind": "text", "id": "below", "message": {"name": "Below", "body": "Next"}}
SERVICE = BELOW | {"id": "service", "purpose": "service", "message": {"name": "Service", "body": "Your booking"}}


def lane(answer: str, *words: str) -> dict[str, Any]:
    note = {"kind": "note", "id": f"n-{answer}", "text": answer}
    return {"id": answer, "answer": answer, "words": words, "steps": [note]}


def played(steps: list[Any], *events: dict[str, Any], expect: list[dict[str, Any]]) -> Verdict:
    scenario = {
        "name": "s",
        "contact": {"first_name": "Wren", "mobile": "+447700900077"},
        "events": events,
        "expect": expect,
    }
    [verdict] = play_all(ask(leaves_on=[], steps=steps, scenarios=[scenario]))
    return verdict


def question(*lanes: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"kind": "wait_for_reply", "id": "q", "limit": "3 days", "lanes": lanes, **more}


YES, OUT, OTHER = lane("yes", "yes"), lane("out", "no"), lane("other")
HM, LIKELY = {"after": "1 hour", "reply": "hm"}, {"after": "1 hour", "reply": "who gave you my number"}
ON, GONE = {"after": "5 days", "read": "on"}, {"after": "5 days", "read": "out"}


@pytest.mark.parametrize(
    ("lanes", "events", "expect"),
    [
        ([YES, OUT], [HM], [{"not_sent": ""}, {"inside": True}]),
        ([YES, OUT], [HM, ON], [{"sent": "Below", "on_day": 5}]),
        ([YES, OUT], [HM, {"after": "2 hours", "reply": "yes"}], [{"note": "yes"}, {"sent": "Below", "on_day": 0}]),
        ([YES, OTHER], [HM], [{"note": "other", "on_day": 0}]),
        ([YES, OTHER], [{"after": "1 hour", "reply": "no thanks"}], [{"note": "other", "on_day": 0}]),
        ([YES], [{"after": "1 hour", "reply": "no thanks"}], [{"not_sent": ""}, {"inside": True}]),
        ([], [HM], [{"sent": "Below", "on_day": 0}]),  # an answer makes no difference there
        ([YES, OUT, OTHER], [LIKELY], [{"not_sent": ""}, {"inside": True}]),
        ([YES, OUT, OTHER], [LIKELY, ON], [{"note": "other", "on_day": 5}, {"sent": "Below", "on_day": 5}]),
        ([YES, OUT, OTHER], [LIKELY, GONE], [{"note": "out", "on_day": 5}, {"not_sent": ""}]),
        ([YES], [LIKELY, GONE], [{"gone": True, "on_day": 5}, {"not_sent": ""}]),
    ],
)
def test_an_answer_is_read_before_anything_follows_that_no_lane_is_for(
    lanes: list[Any], events: list[Any], expect: list[Any]
) -> None:
    assert played([question(*lanes), BELOW], *events, expect=expect).failures == ()


LATER = {"kind": "wait", "id": "later", "duration": "2 days"}
SURE = {"after": "90 minutes", "reply": "yes please"}


@pytest.mark.parametrize(
    ("first", "then", "below", "expect"),
    [
        ("hm", SURE, [LATER, BELOW], [{"note": "other"}, {"note": "yes"}, {"sent": "Below", "on_day": 2}]),
        ("yes", {"after": "1 day", "reply": "sorry, no"}, [LATER, BELOW], [{"note": "yes"}, {"note": "out"}]),
        (
            "hm",
            SURE,
            [BELOW, LATER],
            [{"note": "other"}, {"sent": "Below"}, {"gone": True, "on_day": 2}],
        ),  # it has gone out
        ("yes", {"after": "1 day", "reply": "what time?"}, [LATER], [{"note": "yes"}, {"gone": True, "on_day": 2}]),
        ("yes", {"after": "1 day", "reply": "stop"}, [LATER], [{"note": "yes"}, {"gone": True, "on_day": 1}]),
    ],
)
def test_a_later_clearer_answer_corrects_the_first_until_something_has_gone_out_by_it(
    first: str, then: dict[str, Any], below: list[Any], expect: list[Any]
) -> None:
    out = OUT | {"steps": [*OUT["steps"], {"kind": "end", "id": "bye"}]}
    verdict = played([question(YES, out, OTHER), *below], {"after": "1 hour", "reply": first}, then, expect=expect)
    assert verdict.failures == ()
    notes = [effect.text for _, effect in verdict.rehearsal.effects if isinstance(effect, AddNote)]
    assert len(notes) == sum("note" in one for one in expect)


@pytest.mark.parametrize(
    ("then", "expect"),
    [
        ({"after": "70 minutes", "reply": "sorry, I meant yes"}, [{"note": "out"}, {"note": "yes"}, {"sent": "Below"}]),
        ({"after": "70 minutes", "reply": "thanks"}, [{"note": "out"}, {"gone": True, "on_day": 0}]),
        ({"after": "3 hours", "reply": "sorry, I meant yes"}, [{"note": "out"}, {"gone": True, "on_day": 0}]),
        ({"after": "70 minutes", "reply": "stop"}, [{"note": "out"}, {"gone": True, "on_day": 0}]),
    ],
)
@pytest.mark.parametrize("end", [[{"kind": "end", "id": "bye"}], []])
def test_an_answer_that_has_led_to_the_end_can_be_corrected_for_a_while(
    then: dict[str, Any], expect: list[dict[str, Any]], end: list[Any]
) -> None:
    out = OUT | {"steps": [*OUT["steps"], *end]}
    yes = YES | {"steps": [*YES["steps"], BELOW]}
    verdict = played([question(yes, out)], {"after": "1 hour", "reply": "no"}, then, expect=expect)
    assert verdict.failures == ()
    notes = [effect.text for _, effect in verdict.rehearsal.effects if isinstance(effect, AddNote)]
    assert len(notes) == sum("note" in one for one in expect)


def test_of_two_answers_in_hand_the_clearer_one_counts_before_anything_is_sent() -> None:
    at = [MONDAY + timedelta(minutes=minutes) for minutes in (1, 2, 5)]
    other = OTHER | {"steps": [BELOW | {"id": "what", "message": {"name": "What", "body": "Pardon?"}}]}
    events = [(at[0], Replied("hm")), (at[1], Replied("yes"))]
    script = ask(leaves_on=[], steps=[question(YES, other), BELOW])
    late, soon = (rehearse(script, ADA, MONDAY, events, batches=batches) for batches in ((MONDAY, at[2]), ()))
    assert [message.name for _, message in late.messages] == ["Below"]  # workers were away: both are in hand
    assert [message.name for _, message in soon.messages] == ["What", "Below"]


def test_a_workflow_can_say_that_such_answers_go_on_below() -> None:
    assert played([question(YES, goes_on=True), BELOW], HM, expect=[{"sent": "Below", "on_day": 0}]).failures == ()


WAIT = {"kind": "wait", "id": "w", "duration": "2 days"}


@pytest.mark.parametrize(
    ("events", "expect"),
    [
        ([LIKELY], [{"sent": "Service", "on_day": 2}, {"not_sent": "Below"}, {"inside": True}]),
        ([LIKELY, ON], [{"sent": "Service", "on_day": 2}, {"sent": "Below", "on_day": 5}, {"gone": True}]),
        ([LIKELY, GONE], [{"sent": "Service", "on_day": 2}, {"not_sent": "Below"}, {"gone": True, "on_day": 5}]),
        ([LIKELY | {"channel": "email"}], [{"sent": "Service"}, {"sent": "Below", "on_day": 2}]),  # of another channel
    ],
)
def test_marketing_is_held_at_its_line_until_somebody_has_looked(events: list[Any], expect: list[Any]) -> None:
    verdict = played([WAIT, SERVICE, BELOW], *events, expect=expect)
    assert verdict.failures == ()
    sentences = [reason.sentence for moment in verdict.rehearsal.moments for reason in moment.reasons]
    held = "Holds “Below”: what they wrote by text may mean that they want no more, and nobody has looked yet."
    assert (held in sentences) == (events[0].get("channel") is None)
