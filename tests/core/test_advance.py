"""advance(): the table at the top of engine/advance.py. What holds for any workflow is in test_properties.py."""

from dataclasses import replace
from datetime import timedelta

from bluffside.core.engine.advance import advance
from bluffside.core.engine.effects import AddTag, Effect, MakeTask, SendMessage
from bluffside.core.engine.signals import Joined, Removed, Replied, TimeReached
from bluffside.core.engine.state import State
from bluffside.core.facts import Appointment, Facts, withdrawn
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.program import compile_workflow
from tests.core.examples import ADA, MONDAY, ask

HOUR = timedelta(hours=1)


def play(workflow: Workflow, history: list, facts: Facts = ADA) -> tuple[list[State], list[Effect]]:
    """Every state and all effects of joining at MONDAY and then the signals, each so long after the one before."""
    program, state, now = compile_workflow(workflow), State(MONDAY), MONDAY
    states, effects = [], []
    for wait, signal in [(timedelta(), Joined()), *history]:
        now += wait
        outcome = advance(program, state, facts, signal, now)
        state = outcome.state
        states.append(state)
        effects += outcome.effects
        facts = outcome.facts
    return states, effects


def test_an_answer_takes_its_lane_with_its_effects() -> None:
    states, effects = play(ask(), [(3 * HOUR, Replied("Yes please!"))])
    text, tag, call = effects
    assert isinstance(text, SendMessage)
    assert text.body == "Hi Ada, dry again?"
    assert (text.step, text.round) == ("hello", 1)
    assert tag == AddTag("tag", 1, "wants a course")
    assert isinstance(call, MakeTask)
    assert call.say == "Hi Ada"
    assert states[-1].place == "pause"


def test_no_answer_takes_the_lane_for_none_only_when_the_limit_is_reached() -> None:
    states, effects = play(ask(), [(71 * HOUR, TimeReached()), (HOUR, TimeReached())])
    assert [state.place for state in states] == ["answer", "answer", "pause"]
    assert [effect.step for effect in effects] == ["hello", "mail"]


def test_a_reply_that_no_step_waits_for_leaves_unless_the_workflow_says_stay() -> None:
    later = [(HOUR, Replied("yes")), (HOUR, Replied("one more thing"))]
    assert play(ask(), later)[0][-1].ended == "replied"
    assert play(ask(leaves_on=[]), later)[0][-1].running
    assert play(ask(leaves_on=[]), [(HOUR, Replied("yes")), (HOUR, Replied("STOP"))])[0][-1].ended == "opted out"


def test_who_asks_to_stop_leaves_where_no_lane_is_for_that() -> None:
    steps = [
        ask().steps[0].model_dump(),
        {"kind": "wait_for_reply", "id": "answer"},
        {"kind": "note", "id": "n", "text": "on"},
    ]
    stopped = [(HOUR, Replied("Stop please"))]
    assert play(ask(steps=steps, leaves_on=[]), stopped)[0][-1].ended == "opted out"
    assert play(ask(), stopped)[0][-1].ended == "ended by a line of the script"  # its lane for “out” ends it


def test_a_closed_channel_is_passed_over_with_its_reason() -> None:
    facts = replace(ADA, contact=replace(ADA.contact, consents=withdrawn("text")))
    outcome = advance(compile_workflow(ask()), State(MONDAY), facts, Joined(), MONDAY)
    assert not outcome.effects
    assert "Passed over “Hello”: opted out of texts." in [reason.sentence for reason in outcome.reasons]


def test_outside_the_sending_hours_a_message_is_held_and_the_channel_looked_at_again() -> None:
    workflow = ask(hours={"weekdays": ["tue"], "start": "10:00", "end": "12:00"})
    program = compile_workflow(workflow)
    held = advance(program, State(MONDAY), ADA, Joined(), MONDAY).state
    assert held.until == MONDAY + timedelta(hours=25)
    opted_out = replace(ADA, contact=replace(ADA.contact, consents=withdrawn("text")))
    assert not advance(program, held, opted_out, TimeReached(), held.until).effects
    assert len(advance(program, held, ADA, TimeReached(), held.until).effects) == 1


def test_who_is_taken_out_is_out() -> None:
    states, _ = play(ask(), [(HOUR, Removed("moved away")), (HOUR, Replied("yes"))])
    assert states[-1] == states[-2]
    assert states[-1].ended == "moved away"


def test_who_was_booked_by_the_assistant_ends_at_a_line_once_that_time_is_over() -> None:
    """The conversation outlasts its line; nothing of it is still to come then, and the script ends (it once went round for ever)."""
    lane = {
        "id": "b",
        "ending": "booked",
        "steps": [{"kind": "wait", "id": "w", "duration": "20 days"}, {"kind": "end", "id": "e"}],
    }
    workflow = ask(steps=[{"kind": "booking_assistant", "id": "talk", "type": "Taster", "lanes": [lane]}])
    program = compile_workflow(workflow)
    soon = Appointment("v", "Taster", MONDAY + timedelta(days=2))
    facts = replace(ADA, contact=replace(ADA.contact, appointments=(soon,)))
    waits = advance(program, State(MONDAY), facts, Joined("by hand"), MONDAY)
    assert waits.state.place == "w" and waits.state.talk and waits.state.until
    over = advance(program, waits.state, waits.facts, TimeReached(), waits.state.until)
    assert over.state.ended and not over.state.running
