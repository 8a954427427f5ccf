"""What holds for any workflow, anybody, any care and any history."""

from collections import Counter
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

from hypothesis import given, settings

from bluffside.core.engine.advance import Outcome, advance
from bluffside.core.engine.effects import CallOff, MakeTask, SendMessage
from bluffside.core.engine.signals import Happened, Joined, Replied, Signal, TimeReached
from bluffside.core.engine.state import State
from bluffside.core.facts import Facts
from bluffside.core.rehearsal.happening import absorb
from bluffside.core.rehearsal.rehearse import rehearse
from bluffside.core.workflow.checks import check
from bluffside.core.workflow.counts import most_touches, touches_of
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.files import read_workflow, write_workflow
from bluffside.core.workflow.graph import reachable, unbounded_loop
from bluffside.core.workflow.mending import mended
from bluffside.core.workflow.moving import move_of, moved, place_map
from bluffside.core.workflow.program import compile_workflow
from bluffside.core.workflow.timeline import time_line
from tests.core.making import any_workflows, cares, histories, joinings, limited_cares, people

History = list[tuple[timedelta, Signal]]


def play(workflow: Workflow, facts: Facts, joined: datetime, history: History) -> list[tuple[datetime, Outcome]]:
    """Every outcome of joining and then of the signals, each so long after the one before."""
    program, state, now = compile_workflow(workflow), State(joined), joined
    outcomes = []
    for wait, signal in [(timedelta(), Joined()), *history]:
        now += wait
        if isinstance(signal, Happened):
            signal = Happened(replace(signal.event, at=now))
            facts = replace(facts, contact=absorb(facts.contact, signal.event))
        outcome = advance(program, state, facts, signal, now)
        state, facts = outcome.state, outcome.facts
        outcomes.append((now, outcome))
    return outcomes


everything = given(any_workflows(), people(), joinings, histories)


@everything
@settings(max_examples=150)
def test_every_turn_leaves_a_sound_state_and_never_does_a_thing_twice(
    workflow: Workflow, facts: Facts, joined: datetime, history: History
) -> None:
    program = compile_workflow(workflow)
    assert unbounded_loop(program) == ()
    places = reachable(program)  # nobody ever stands where the proof says that nobody gets
    keys: list[tuple[str, str, int]] = []
    outcomes = play(workflow, facts, joined, history)
    for now, outcome in outcomes:
        state = outcome.state
        keys += [(type(effect).__name__, effect.step, effect.round) for effect in outcome.effects]
        if state.running:
            assert state.place in places
            assert state.until is not None
            assert state.arrived is not None and joined <= state.arrived <= now
        else:
            assert (state.place, state.until, state.listens, state.loops) == ("", None, False, ())
        assert all(reason.sentence for reason in outcome.reasons)  # every reason can be read
    assert len(keys) == len(set(keys))
    assert play(workflow, facts, joined, history) == outcomes  # and the same again gives the same


@given(any_workflows(), limited_cares.flatmap(lambda care: people(care)), joinings)
@settings(max_examples=120)
def test_with_time_alone_everyone_comes_to_an_end_and_time_never_runs_backward(
    workflow: Workflow, facts: Facts, joined: datetime
) -> None:
    played = rehearse(workflow, facts, joined)
    assert played.state.ended
    moments = [moment.at for moment in played.moments]
    assert moments == sorted(moments)
    for moment in played.moments:
        assert moment.state.until is None or moment.state.until >= moment.at


@everything
@settings(max_examples=120)
def test_the_plan_of_a_rehearsal_is_what_advance_does(
    workflow: Workflow, facts: Facts, joined: datetime, history: History
) -> None:
    """A rehearsal, with its queue and its world, against advance() called by hand at the moments the plan names."""
    at, events = joined, list[Any]()
    for wait, signal in history:
        at += wait
        if isinstance(signal, Replied) and signal.text != "STOP":
            events.append((at, signal))
    played = rehearse(workflow, facts, joined, events)
    program, state = compile_workflow(workflow), State(joined)
    for moment in played.moments:
        outcome = advance(program, state, facts, moment.signal, moment.at)
        assert outcome.state == moment.state
        assert [reason.sentence for reason in outcome.reasons] == [reason.sentence for reason in moment.reasons]
        state, facts = outcome.state, outcome.facts
        for decided, effect in zip(outcome.effects, moment.effects, strict=True):
            if effect != decided:  # whose turn it is, which only the world around knows
                facts = effect.changes(facts, moment.at)
    assert state == played.state
    assert facts.contact.tags == played.contact.tags


@given(any_workflows(), cares.flatmap(lambda care: people(care, reachable=True)), joinings, histories)
@settings(max_examples=200)
def test_what_happens_lies_within_the_time_line(
    workflow: Workflow, facts: Facts, joined: datetime, history: History
) -> None:
    """The time line, which runs nothing, bounds every act of the engine, which does. What it goes by (appointments,
    dates, consent) stays as it was; replies come at any time."""
    at, events = joined, list[Any]()
    for wait, signal in history:
        at += wait
        if isinstance(signal, Replied) and signal.text != "STOP":
            events.append((at, signal))
    changes = ("consent", "appointment", "set_field", "channel_order", "booking_assistant")
    if any(step.kind in changes for step in walk(workflow.steps)):
        return
    times = time_line(workflow, joined, facts.zone, facts)
    for when, effect in rehearse(workflow, facts, joined, events).effects:
        if isinstance(effect, CallOff):  # which nobody's line does, but what reached them
            continue
        acts = times.lines[effect.step].acts
        assert acts is not None, effect
        assert acts.earliest <= when <= acts.latest, (effect, times.lines[effect.step], when)


@everything
@settings(max_examples=120)
def test_nobody_gets_more_touches_than_are_counted_while_writing(
    workflow: Workflow, facts: Facts, joined: datetime, history: History
) -> None:
    at, events = joined, list[Any]()
    for wait, signal in history:  # without what moves a date: then what is said relative to it comes again
        at += wait
        if isinstance(signal, Replied):
            events.append((at, signal))
    speaks = {step.id: step.speaks for step in walk(workflow.steps) if step.speaks}
    touched = Counter(speaks[effect.step] for _, effect in rehearse(workflow, facts, joined, events).effects
                      if isinstance(effect, SendMessage | MakeTask) and effect.step in speaks)  # fmt: skip
    assert touched <= touches_of(workflow.steps)
    assert touched.total() <= most_touches(workflow.steps)


@given(any_workflows())
@settings(max_examples=60)
def test_a_file_reads_back_as_written_in_both_forms(workflow: Workflow) -> None:
    assert read_workflow(write_workflow(workflow, "json")) == workflow
    assert read_workflow(write_workflow(workflow, "yaml")) == workflow


@given(any_workflows(), any_workflows(), people(), joinings, histories)
@settings(max_examples=100)
def test_any_place_of_any_version_maps_to_a_place_that_exists(
    old: Workflow, new: Workflow, facts: Facts, joined: datetime, history: History
) -> None:
    before, after = compile_workflow(old), compile_workflow(new)
    for place, move in place_map(before, after).items():
        assert move == move_of(before, after, place)
        assert move.to == "" or move.to in after.nodes
        assert move.stays == (place in after.nodes)
    now, outcome = play(old, facts, joined, history)[-1]
    state = moved(outcome.state, before, after, now)
    facts = outcome.facts
    for _ in range(2_000):  # and the new version goes on with them from there, to its end
        if not state.running:
            break
        assert state.until is not None
        now = max(now, state.until)
        outcome = advance(after, state, facts, TimeReached(), now)
        state, facts = outcome.state, outcome.facts
    assert not state.running


@given(any_workflows())
@settings(max_examples=80)
def test_every_mend_that_is_offered_mends(workflow: Workflow) -> None:
    before = [(one.code, one.step, one.sentence) for one in check(workflow)]
    for one in check(workflow):
        if one.mend:
            after = check(mended(workflow, one.step, one.mend, "new-line"))
            same = [two for two in after if (two.code, two.step, two.sentence) == (one.code, one.step, one.sentence)]
            assert len(same) < before.count((one.code, one.step, one.sentence))


@given(any_workflows())
@settings(max_examples=60)
def test_every_line_reads_as_a_sentence(workflow: Workflow) -> None:
    for step in walk(workflow.steps):
        said = step.describe()
        assert said and "{" not in said and "_" not in said.replace("{{", ""), said
        for lane in step.lanes_below():
            assert lane.heading()
