"""The kinds of step: the one pattern of all, and what each that acts on records does, with its reason and its event."""

import re
from dataclasses import replace
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Any

import pytest

from bluffside.core.catalogue import catalogue
from bluffside.core.engine.effects import (
    AddPoints,
    AddTag,
    Assignee,
    CallWebhook,
    ChangeAppointment,
    ChangeSeries,
    CreateDeal,
    Effect,
    HandOver,
    MakeTask,
    MoveDeal,
    Notify,
    SetChannelOrder,
    SetConsent,
    SetField,
    SetList,
    SetOwner,
    StopOthers,
)
from bluffside.core.engine.signals import Happened, Removed, Replied
from bluffside.core.events import SUBJECTS, Event
from bluffside.core.facts import Appointment, Deal, Facts
from bluffside.core.rehearsal.rehearse import Answer, Rehearsal, rehearse
from bluffside.core.steps import KINDS
from bluffside.core.steps.split import ShareLane, Split
from bluffside.core.timing.durations import Duration
from tests.core.examples import ADA, MONDAY, ask

HOUR = timedelta(hours=1)


def run(steps: list[dict[str, Any]], facts: Facts = ADA, events: list[Any] | None = None, **about: Any) -> Rehearsal:
    return rehearse(ask(steps=steps, leaves_on=about.pop("leaves_on", [])), facts, MONDAY, events or [], **about)


def who(**contact: Any) -> Facts:
    return replace(ADA, contact=replace(ADA.contact, **contact))


# ---- one pattern for all kinds


@pytest.mark.parametrize("kind", KINDS)
def test_a_kind_declares_what_the_pattern_asks_for(kind: str) -> None:
    made = KINDS[kind]
    blank = made.blank()
    parts = re.findall(r"\{(\w+)\}", made.sentence)
    assert made.label and all(word == word.lower() for word in made.finds)
    assert set(parts) <= set(made.model_fields), "the sentence names fields"
    for name, info in made.model_fields.items():
        sort = info.json_schema_extra.get("sort") if isinstance(info.json_schema_extra, dict) else None
        assert name not in parts or sort, f"{name} stands in the sentence and says no sort"
    assert blank.describe().strip() and "{" not in blank.describe()
    assert all(fault.sentence.endswith(".") for fault in blank.faults())
    assert all(event in SUBJECTS for event, _ in blank.brings()) and blank.hears() <= set(SUBJECTS)
    assert made.divides or not blank.lanes_below()


def test_the_catalogue_has_every_kind_and_its_main_part_first() -> None:
    kinds = {one.kind: one for one in catalogue().kinds}
    assert set(kinds) == set(KINDS)
    assert [kinds[kind].parts[0].field for kind in ("text", "wait", "call", "tag", "on_day", "score")] == [
        "message", "duration", "about", "tag", "day", "points"]  # fmt: skip


# ---- what each does: the effect, the reason, what it puts on the stream

QUOTED = Deal("d", "Courses", "New", MONDAY, MONDAY, Decimal(240), name="Weekend")
VISIT = Appointment("v", "Taster", MONDAY + timedelta(days=3))
Row = tuple[dict[str, Any], dict[str, Any], Effect, str, str]
DOES: list[Row] = [
    ({"kind": "tag", "tag": "crew"}, {}, AddTag("s", 1, "crew"), "Tagged “crew”.", "tag.added"),
    ({"kind": "tag", "tag": "crew"}, {"tags": frozenset({"crew"})}, AddTag("s", 1, "crew"), "Had the tag “crew” already.", ""),
    ({"kind": "set_field", "field": "budget", "holds": "number", "value": "250"}, {}, SetField("s", 1, "budget", Decimal(250)),
     "Set budget to “250”.", "field.changed"),
    ({"kind": "set_field", "field": "seen", "holds": "date", "value": "today"}, {}, SetField("s", 1, "seen", date(2026, 3, 2)),
     "Set seen to “today”.", "field.changed"),
    ({"kind": "set_field", "field": "last_name", "value": "{{ contact.first_name }}son"}, {},
     SetField("s", 1, "last_name", "Adason", True), "Set last_name to “Adason”.", "field.changed"),
    ({"kind": "set_list", "list": "regatta"}, {}, SetList("s", 1, "regatta", True), "Put on the list “regatta”.", "list.joined"),
    ({"kind": "score", "points": 20, "rule": "came", "half_life": "30 days", "limit": 50}, {},
     AddPoints("s", 1, "came", 20, timedelta(days=30), 50), "Score from 0 to 20: +20 for came.", "score.changed"),
    ({"kind": "owner", "assign": {"to": "member", "members": ["Theo"]}}, {}, SetOwner("s", 1, Assignee("member", ("Theo",))),
     "Made Theo responsible.", ""),
    ({"kind": "deal_create", "pipeline": "Courses", "stage": "New", "value": 240}, {},
     CreateDeal("s", 1, "s:1", "Courses", "New", "Ada Marsh", Decimal(240)), "Made the deal “Ada Marsh” on Courses in “New”.",
     "deal.created"),
    ({"kind": "deal_move", "stage": "Quoted"}, {"deals": (QUOTED,)}, MoveDeal("s", 1, "d", "Quoted"),
     "Moved “Weekend” from “New” to “Quoted”.", "stage.changed"),
    ({"kind": "deal_move", "state": "won"}, {"deals": (QUOTED,)}, MoveDeal("s", 1, "d", "", "won"),
     "Moved “Weekend” from “New” to “New”, won.", "deal.won"),
    ({"kind": "consent", "state": "given", "channel": "text", "wording": "May we?"}, {},
     SetConsent("s", 1, "text", "marketing", "given", "by a workflow", "May we?"), "Wrote down: agreed to texts for marketing.",
     "consent.given"),
    ({"kind": "channel_order", "order": ["text", "email", "text"]}, {}, SetChannelOrder("s", 1, ("text", "email")),
     "From now on prefers text, then email.", ""),
    ({"kind": "appointment", "to": "cancelled"}, {"appointments": (VISIT,)}, ChangeAppointment("s", 1, "v", "cancelled"),
     "Taster on Thu 5 Mar, 09:00 is cancelled.", "appointment.cancelled"),
    ({"kind": "notice", "text": "{{ contact.first_name }} came"}, {}, Notify("s", 1, "Ada came"), "Told Mel Rowan: “Ada came”.", ""),
    ({"kind": "webhook", "url": "https://example.com/in?x=1", "query": [{"name": "who", "value": "{{ contact.email }}"}]}, {},
     CallWebhook("s", 1, "POST", "https://example.com/in?x=1", (("who", "ada@example.com"),)),
     "Asked for a POST request to example.com.", ""),
    ({"kind": "outside_series", "service": "Gull Post", "what": "series", "name": "News"}, {},
     ChangeSeries("s", 1, "Gull Post", "series", "News", True), "Asked Gull Post to put them on the series “News”.", ""),
    ({"kind": "stop_others", "workflows": ["News"]}, {}, StopOthers("s", 1, ("News",)), "Taken out of “News”.", ""),
    ({"kind": "hand_over", "workflow": "News"}, {}, HandOver("s", 1, "News", 1), "Goes on in “News”.", ""),
    ({"kind": "own_task", "title": "Look at the boat", "assign": {"to": "causer"}}, {},
     MakeTask("s", 1, "custom", "Look at the boat"), "Put on the list of Mel Rowan: task “Look at the boat”.", ""),
]  # fmt: skip


@pytest.mark.parametrize(("step", "contact", "effect", "reason", "event"), DOES)
def test_what_a_step_does_and_why_it_says_so(
    step: dict[str, Any], contact: dict[str, Any], effect: Effect, reason: str, event: str
) -> None:
    facts = who(**contact)
    played = run([step | {"id": "s"}], facts)
    assert [one for _, one in played.effects] == [effect]
    assert reason in [one.sentence for one in played.moments[0].reasons]
    happened = effect.event(facts, MONDAY)
    assert (happened.kind if happened else "") == event


@pytest.mark.parametrize(
    ("step", "reason"),
    [
        ({"kind": "deal_move", "stage": "Quoted", "pipeline": "Charter"}, "Moved no deal: there is none open on Charter."),
        ({"kind": "appointment"}, "There is no appointment to be confirmed."),
        ({"kind": "set_field", "field": "budget", "holds": "number", "value": "{{ contact.first_name }}"},
         "Left budget as it is: “Ada” is not a number."),
    ],
)  # fmt: skip
def test_where_there_is_nothing_to_act_on_it_says_so_and_goes_on(step: dict[str, Any], reason: str) -> None:
    played = run([step | {"id": "s"}, {"kind": "tag", "id": "after", "tag": "t"}], who(deals=(QUOTED,)))
    assert [effect.step for _, effect in played.effects] == ["after"]
    assert reason in [one.sentence for one in played.moments[0].reasons]


def test_a_call_is_tried_up_to_three_times_with_what_to_do_on_the_last() -> None:
    step = {"kind": "call", "id": "c", "about": "the course", "say": "Hi", "attempts": 3, "last": "Leave a message"}
    [(_, task)] = run([step]).effects
    assert isinstance(task, MakeTask)
    assert (task.task, task.attempts, task.last) == ("call", 3, "Leave a message")


def test_a_held_message_is_handed_out_at_once_and_marked() -> None:
    step = {"kind": "text", "id": "t", "held": True, "message": {"name": "T", "body": "Hi"}}
    [(at, message)] = run([step]).messages
    assert message.held and at == MONDAY and message.event(ADA, at) is None


def test_consent_is_written_down_with_its_proof() -> None:
    """GDPR art. 7(1): whoever relies on consent must be able to demonstrate it: when, how, and to which words."""
    step = {"kind": "consent", "id": "c", "state": "given", "channel": "text", "wording": "May we text you?"}
    said = run([step]).contact.consent("text", "marketing")
    assert said and (said.state, said.at, said.how, said.wording) == (
        "given",
        MONDAY,
        "by a workflow",
        "May we text you?",
    )


# ---- choosing and splitting


def test_a_split_keeps_its_shares_and_each_contact_its_lane() -> None:
    split = Split(id="s", lanes=(ShareLane(id="a", share=1), ShareLane(id="b", share=3)))
    taken = [lane.id for number in range(4_000) if (lane := split.lane_for(f"contact {number}"))]
    assert taken == [lane.id for number in range(4_000) if (lane := split.lane_for(f"contact {number}"))]
    # Of 4,000 with a chance of 1/4 each, the standard deviation is 27; five of them either way.
    assert abs(taken.count("a") - 1_000) < 137
    other = split.model_copy(update={"id": "another"})
    drawn = [lane.id for number in range(4_000) if (lane := other.lane_for(f"contact {number}"))]
    assert drawn != taken  # another split draws anew


# ---- waiting for something

OUTCOME = {"kind": "wait_for", "id": "w", "limit": "3 days", "lanes": [
    {"id": "got", "on": {"kind": "task_done", "step": "c", "outcomes": ["reached"]}, "steps": [{"kind": "tag", "id": "t1", "tag": "reached"}]},
    {"id": "clicks", "on": {"kind": "link_clicked", "message": "News"}, "steps": [{"kind": "tag", "id": "t2", "tag": "clicked"}]},
    {"id": "booked", "on": {"kind": "appointment", "what": "booked"}, "steps": [{"kind": "tag", "id": "t3", "tag": "booked"}]},
    {"id": "says", "on": {"kind": "replied"}, "steps": [{"kind": "tag", "id": "t4", "tag": "said"}]},
    {"id": "none", "steps": [{"kind": "tag", "id": "t5", "tag": "nothing"}]},
]}  # fmt: skip


def done(outcome: str, **more: Any) -> Event:
    return Event("task.done", MONDAY, {"step": "c", "task": "call", "outcome": outcome} | more)


@pytest.mark.parametrize(
    ("what", "tag"),
    [
        (done("reached"), "reached"),
        (done("no_answer"), "nothing"),
        (done("reached", step="other"), "nothing"),
        (Event("link.clicked", MONDAY, {"message": "News", "url": "https://example.com"}), "clicked"),
        (Event("appointment.booked", MONDAY, {"appointment": "n", "type": "T", "start": MONDAY}), "booked"),
        (Replied("hm"), "said"),
    ],
)
def test_the_first_thing_that_happens_takes_its_lane_else_the_lane_for_none(what: Any, tag: str) -> None:
    assert run([OUTCOME], events=[(MONDAY + HOUR, what)]).contact.tags == {tag}


def test_an_answer_that_asks_to_stop_is_not_a_reply_to_wait_for() -> None:
    """Common practice: nobody who writes "stop" goes on in a lane as if they had answered."""
    played = run([OUTCOME], events=[(MONDAY + HOUR, Replied("Stop."))])
    assert (played.state.ended, played.contact.tags, played.contact.opted_out) == ("opted out", frozenset(), {"text"})
    with_lane = OUTCOME | {
        "lanes": [{"id": "out", "on": {"kind": "opted_out"}, "steps": [{"kind": "tag", "id": "o", "tag": "out"}]}]
    }
    assert run([with_lane], events=[(MONDAY + HOUR, Replied("Stop."))]).contact.tags == {"out"}


def test_an_outcome_that_came_before_the_line_was_reached_counts() -> None:
    steps = [{"kind": "call", "id": "c", "say": "Hi"}, {"kind": "wait", "id": "d", "duration": "1 day"}, OUTCOME]
    assert run(steps, events=[(MONDAY + HOUR, done("reached"))]).contact.tags == {"reached"}


def test_a_rehearsal_can_be_answered_by_what_happens_at_a_wait() -> None:
    workflow = ask(steps=[OUTCOME], leaves_on=[])
    assert rehearse(workflow, ADA, MONDAY, answers={}).awaits == "w"
    answers = {"w": Answer(done("reached"), Duration(2, "hour"))}
    assert rehearse(workflow, ADA, MONDAY, answers=answers).contact.tags == {"reached"}


# ---- leaving


@pytest.mark.parametrize(
    ("leaves", "what", "ended"),
    [
        ([{"kind": "replied"}], Replied("hm"), "replied"),
        ([{"kind": "replied", "channel": "email"}], Replied("hm"), "came to the end"),
        ([{"kind": "appointment", "what": "booked"}],
         Event("appointment.booked", MONDAY, {"appointment": "n", "type": "T", "start": MONDAY}), "when an appointment is booked"),
        ([{"kind": "stage_changed", "into": "Won"}],
         Event("stage.changed", MONDAY, {"deal": "d", "pipeline": "P", "stage": "Won", "old": "New"}), "when a deal moves into Won"),
        ([{"kind": "tag_added", "tags": ["customer"]}], Event("tag.added", MONDAY, {"tag": "customer"}),
         "when someone is tagged customer"),
        ([{"kind": "opted_out"}], Event("consent.withdrawn", MONDAY, {"channel": "email"}), "when they opt out of any channel"),
        ([{"kind": "tag_added", "tags": ["customer"], "when": {"test": "tag", "tag": "vip"}}],
         Event("tag.added", MONDAY, {"tag": "customer"}), "came to the end"),
        ([], Replied("STOP"), "opted out"),
        ([], Removed("moved away"), "moved away"),
    ],
)  # fmt: skip
def test_people_leave_when_the_workflow_says(leaves: list[Any], what: Any, ended: str) -> None:
    steps = [{"kind": "wait", "id": "w", "duration": "5 days"}, {"kind": "tag", "id": "t", "tag": "stayed"}]
    played = run(steps, events=[(MONDAY + HOUR, what)], leaves_on=leaves)
    assert played.state.ended == ended
    assert ("stayed" in played.contact.tags) == (ended == "came to the end")


def test_a_loop_is_gone_through_so_often_and_no_more_and_each_pass_has_a_key_of_its_own() -> None:
    lane = [
        {"kind": "text", "id": "t", "message": {"name": "T", "body": "Hi"}},
        {"kind": "wait", "id": "w", "duration": "1 day"},
    ]
    inner = {"kind": "repeat", "id": "in", "times": 2, "lanes": [{"id": "l2", "steps": lane}]}
    outer = {"kind": "repeat", "id": "out", "times": 3, "lanes": [{"id": "l1", "steps": [inner]}]}
    sent = run([outer]).messages
    assert [(at - MONDAY).days for at, _ in sent] == [0, 1, 2, 3, 4, 5]
    assert len({(message.step, message.round) for _, message in sent}) == 6
    until = inner | {"until": {"test": "tag", "tag": "enough"}}
    tagged = Event("tag.added", MONDAY, {"tag": "enough"})
    assert len(run([until], events=[(MONDAY + HOUR, tagged)]).messages) == 1


def test_signals_that_mean_nothing_change_nothing() -> None:
    steps = [{"kind": "wait", "id": "w", "duration": "5 days"}]
    quiet = run(steps, events=[(MONDAY + HOUR, Event("form.sent", MONDAY, {"form": "x"}))])
    assert not any(isinstance(moment.signal, Happened) for moment in quiet.moments)
    assert datetime.fromisoformat("2026-03-07T09:00+00:00") == quiet.moments[-1].at
