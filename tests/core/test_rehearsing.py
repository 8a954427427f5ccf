"""Rehearsing: what is offered at a wait, a rehearsal kept as a scenario, a typical few, what comes if nobody answers."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
from dateutil import tz
from hypothesis import given, settings
from hypothesis import strategies as st

from bluffside.core.engine.effects import SendMessage
from bluffside.core.engine.signals import Removed, Replied
from bluffside.core.engine.state import State
from bluffside.core.facts import Facts
from bluffside.core.rehearsal.ahead import ahead
from bluffside.core.rehearsal.keeping import kept, some_contact
from bluffside.core.rehearsal.offers import offers
from bluffside.core.rehearsal.rehearse import Answer, rehearse
from bluffside.core.rehearsal.scenarios import event_of, play
from bluffside.core.rehearsal.typical import typical
from bluffside.core.steps import KINDS
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.local import next_clock_change
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.files import parse_workflow
from bluffside.core.workflow.moving import sent_to
from bluffside.core.workflow.program import compile_workflow
from bluffside.core.workflow.scenario import Act, Scenario, SomeContact
from tests.core.examples import ADA, MONDAY, ask
from tests.core.making import any_workflows, joinings, people

DAY = timedelta(days=1)
# What can be waited for, each as somebody would write it; a date that comes, a score that crosses a mark and what is
# only handed over come without the contact doing anything, so nothing is offered for them.
WAITED_FOR: list[dict[str, Any]] = [
    {"kind": "link_clicked", "message": "Hello"},
    {"kind": "replied"},
    {"kind": "form_sent", "form": "Open day"},
    {"kind": "keyword_texted", "keyword": "sail"},
    {"kind": "lead_received", "source": "advert"},
    {"kind": "tag_added", "tags": ["keen", "ready"]},
    {"kind": "tag_removed", "tags": ["old"]},
    {"kind": "list_joined", "list": "regatta"},
    {"kind": "field_changed", "field": "boat", "to": "dinghy"},
    {"kind": "stage_changed", "pipeline": "Courses", "into": "Booked"},
    {"kind": "deal", "pipeline": "Courses", "what": "won"},
    {"kind": "appointment", "type": "Trial", "what": "booked"},
    {"kind": "appointment", "type": "Trial", "what": "cancelled"},
    {"kind": "task_done", "step": "ring", "outcomes": ["reached"]},
    {"kind": "opted_out", "channel": "text"},
]


def waiting_for(happening: dict[str, Any]) -> Workflow:
    lanes = [
        {"id": "it", "on": happening, "steps": [{"kind": "tag", "id": "came", "tag": "it came"}]},
        {"id": "not", "on": None, "steps": []},
    ]
    hello = {"kind": "text", "id": "hello", "message": {"name": "Hello", "body": "Hi"}}
    ring = {"kind": "call", "id": "ring", "about": "it"}
    wait = {"kind": "wait_for", "id": "wait", "limit": "9 days", "lanes": lanes}
    return parse_workflow({"name": "Waits", "starts": [{"kind": "by_hand"}], "steps": [hello, ring, wait]})


@pytest.mark.parametrize("happening", WAITED_FOR, ids=lambda one: f"{one['kind']}-{one.get('what', '')}")
def test_what_is_offered_at_a_wait_takes_its_lane(happening: dict[str, Any]) -> None:
    workflow = waiting_for(happening)
    someone = SomeContact(
        first_name="Ada", mobile="+447700900123", tags=("old",),
        deals=({"pipeline": "Courses", "stage": "New"},), appointments=({"type": "Trial", "start": "2026-03-20T10:00"},),
    )  # fmt: skip
    facts = replace(ADA, contact=someone.facts(MONDAY, ADA.zone))
    offered = offers(workflow.steps[2], MONDAY)
    assert offered[-1].act is None and len(offered) == 2
    act = Act.model_validate({**(offered[0].act or {}), "after": "0 minutes"})
    answer = Answer(event_of(act, someone, MONDAY, facts.zone), Duration(1, "day"))
    played = rehearse(workflow, facts, MONDAY, answers={"wait": answer})
    assert "it came" in played.contact.tags
    assert [step for _, step, _ in played.given] == ["wait"]
    nothing = rehearse(workflow, facts, MONDAY, answers={"wait": Answer()})
    assert "it came" not in nothing.contact.tags


def test_a_rehearsal_stops_for_an_answer_or_goes_to_the_end() -> None:
    assert rehearse(ask(), ADA, MONDAY, answers={}).awaits == "answer"
    to_the_end = rehearse(ask(), ADA, MONDAY, answers={}, to_the_end=True)
    assert (to_the_end.awaits, to_the_end.state.ended) == ("", "came to the end")
    assert [one.name for _, one in to_the_end.messages] == ["Hello", "Ways"]


@given(any_workflows(), people(reachable=True), joinings, st.sampled_from(["yes", "STOP", "what?"]))
@settings(max_examples=150, deadline=None)
def test_a_rehearsal_kept_as_a_scenario_comes_true(
    workflow: Workflow, facts: Facts, joined: datetime, says: str
) -> None:
    """Somebody of whom we know what a scenario can say: kept and played again, everything comes as it came."""
    joined = joined.replace(microsecond=0)
    zone = facts.account.zone
    known = some_contact(facts.contact, zone, joined).facts(joined, zone)
    waits = {
        one.id: Answer(Replied(says), Duration(2, "hour")) for one in walk(workflow.steps) if one.waits == "answer"
    }
    played = rehearse(workflow, replace(facts, contact=known), joined, answers=waits, to_the_end=True)
    acts = [(at, Act(reply=says, after="1 minute")) for at, _, _ in played.given]
    scenario = kept("Again", known, played, joined, zone, acts)
    read_back = Scenario.model_validate_json(scenario.model_dump_json())
    assert play(workflow, read_back, facts.account, member=facts.member).failures == ()


def test_somebody_real_is_kept_without_their_name_and_addresses() -> None:
    scenario = kept("Ada", ADA.contact, rehearse(ask(), ADA, MONDAY), MONDAY, ADA.zone, [])
    written = scenario.model_dump_json()
    assert not any(word in written for word in ("Ada M", "Marsh", "ada@", "900123"))
    assert (scenario.contact.email, scenario.contact.mobile) == ("robin@example.com", "+447700900001")
    assert scenario.expect[0].sent == "Hello" and scenario.expect[-1].gone


@given(any_workflows(), people(), joinings)
@settings(max_examples=100, deadline=None)
def test_what_comes_ahead_is_what_a_rehearsal_without_answers_does(
    workflow: Workflow, facts: Facts, joined: datetime
) -> None:
    """From the start, and from any place it waits at on the way."""
    alone = replace(facts, contact=replace(facts.contact, id="contact"))
    program, far = compile_workflow(workflow), joined + 4_000 * DAY
    played = rehearse(workflow, alone, joined, lets_go=False)
    mine = [m for m in played.moments if m.workflow == workflow.name]
    came = [(at, effect) for at, effect in ahead(program, State(joined), alone, joined, far) if _says(effect)]
    if len(mine) == len(played.moments) and not any(m.signal.__class__.__name__ == "Happened" for m in mine):
        assert came == [(m.at, effect) for m in mine for effect in m.effects if _says(effect)]
    halfway = joined + 3 * DAY
    assert [one for one in came if one[0] <= halfway] == [
        (at, effect) for at, effect in ahead(program, State(joined), alone, joined, halfway) if _says(effect)
    ]


def _says(effect: object) -> bool:
    return isinstance(effect, SendMessage)


TEXT = {"kind": "text", "message": {"name": "T", "body": "Hi"}}


def test_whose_turn_it_is_counts_for_what_comes_ahead() -> None:
    steps = [
        {"kind": "owner", "id": "o", "assign": {"to": "in_turn", "members": ["Mel", "Theo"]}},
        {"kind": "wait", "id": "w", "duration": "1 day"},
        {"kind": "choose", "id": "c", "lanes": [
            {"id": "mel", "when": {"test": "owner", "member": "Mel"}, "steps": [TEXT | {"id": "hers"}]}, {"id": "else", "steps": [TEXT | {"id": "his"}]}]},
    ]  # fmt: skip
    program = compile_workflow(ask(steps=steps))
    came = ahead(program, State(MONDAY), ADA, MONDAY, MONDAY + 9 * DAY)
    assert [effect.step for _, effect in came if _says(effect)] == ["hers"]


@given(st.dictionaries(st.text("abc", min_size=1, max_size=4), st.sets(st.integers(0, 9).map(str)), max_size=20))
def test_a_typical_few_show_every_line_that_somebody_comes_to(reached: dict[str, set[str]]) -> None:
    few = typical(reached, most=10)
    shown = [line for one in few for line in one.shows]
    assert len(shown) == len(set(shown))  # each line is shown by the first who comes to it
    assert set(shown) == set().union(*reached.values())
    assert sum(1 + one.alike for one in few) <= len(reached)
    for one in few:
        assert set(one.shows) <= reached[one.who]


def test_somebody_sent_to_a_line_they_have_been_through_does_it_again() -> None:
    program = compile_workflow(ask())
    state = State(MONDAY, "pause", MONDAY, MONDAY + 2 * DAY)
    sent = sent_to(state, program, "hello", MONDAY + DAY)
    assert (sent.place, sent.arrived, sent.until, sent.round) == ("hello", None, MONDAY + DAY, 2)
    again = [(at, effect) for at, effect in ahead(program, sent, ADA, MONDAY + DAY, MONDAY + 30 * DAY) if _says(effect)]
    assert [effect.round for _, effect in again] == [2, 2]
    with pytest.raises(LookupError):
        sent_to(state, program, "nowhere", MONDAY)


@pytest.mark.parametrize("zone", ["Europe/London", "America/New_York", "Australia/Hobart", "Pacific/Auckland"])
def test_the_next_clock_change_is_the_one_dateutil_knows(zone: str) -> None:
    """Against another reader of the tz database: dateutil's offsets differ between the midnights around the day."""
    other = tz.gettz(zone)
    assert other
    for month in range(1, 13):
        found = next_clock_change(datetime(2026, month, 15, tzinfo=UTC), zone)
        assert found
        around = [datetime.combine(found + n * DAY, datetime.min.time(), other).utcoffset() for n in (0, 1)]
        assert around[0] != around[1]
    assert next_clock_change(MONDAY, "Asia/Kolkata") is None
    # Council Directive 2000/84/EC: the last Sunday in March and in October.
    assert next_clock_change(MONDAY, "Europe/Paris") == date(2026, 3, 29)


def test_every_kind_that_waits_for_the_contact_has_offers() -> None:
    for kind, model in KINDS.items():
        if model.waits == "answer":
            assert offers(model.blank(), MONDAY)[-1].act is None, kind


def test_being_taken_out_can_be_an_answer() -> None:
    """A scenario may take the contact out; so may a rehearsal."""
    played = rehearse(ask(), ADA, MONDAY, answers={"answer": Answer(Removed("moved away"), Duration(1, "hour"))})
    assert played.state.ended == "moved away"
