"""The document: its files, schema, checks and time line; rehearsal; the command line."""

import json
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bluffside.commandline.rehearse import main
from bluffside.core.engine.signals import Replied
from bluffside.core.rehearsal.rehearse import Answer, rehearse
from bluffside.core.timing.durations import Duration
from bluffside.core.workflow.checks import can_publish, check
from bluffside.core.workflow.counts import most_touches, touches_of
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.files import json_schema, parse_workflow, read_workflow, to_data, write_workflow
from bluffside.core.workflow.plain_data import BadFile
from bluffside.core.workflow.reading import read
from tests.core.examples import ADA, ASK, MONDAY, ask

KEYS = st.sampled_from(["name", "steps", "kind", "id", "lanes", "starts", "hours", "text", "wait"])


def _nested(inner: st.SearchStrategy) -> st.SearchStrategy:  # type: ignore[type-arg]
    return st.lists(inner, max_size=3) | st.dictionaries(KEYS, inner, max_size=4)


ROOT = Path(__file__).parents[2]


def test_the_published_schema_is_the_one_in_force_and_the_examples_fit_it() -> None:
    published = json.loads((ROOT / "docs/workflow.schema.json").read_text())
    assert published == json_schema()
    validator = jsonschema.Draft202012Validator(published)
    for path in (ROOT / "docs/examples/workflows").glob("*.yaml"):
        assert not list(validator.iter_errors(to_data(read_workflow(path.read_text()))))
    assert list(validator.iter_errors(to_data(ask()) | {"steps": [{"kind": "dance", "id": "a"}]}))


def test_a_document_of_the_first_format_is_brought_to_the_present_one() -> None:
    old = ASK | {
        "format": "bluffside-workflow/1",
        "starts": [{"kind": "tag_added", "tag": "taster"}, {"kind": "by_hand"}],
        "leaves_on": ["reply"],
    }
    assert parse_workflow(old) == ask()


def test_who_was_handed_to_an_assistant_outside_is_asked_by_a_text_and_talked_with() -> None:
    talk = {"kind": "booking_assistant", "id": "talk", "type": "Taster", "opening": "Hi {{ contact.first_name }}"}
    lanes = [
        {
            "id": "yes",
            "when": {"test": "tag", "tag": "a", "has": True},
            "steps": [talk | {"id": "inside", "opening": ""}],
        }
    ]
    scenario = {"name": "s", "expect": [{"does": "booking_assistant"}, {"inside": True}]}
    old = {"name": "old", "steps": [talk, {"kind": "choose", "id": "c", "lanes": lanes}], "scenarios": [scenario]}
    now = parse_workflow(old)
    assert [(step.kind, step.id) for step in walk(now.steps)] == [
        ("text", "talk-begins"), ("booking_assistant", "talk"), ("choose", "c"), ("booking_assistant", "inside"),
    ]  # fmt: skip
    assert now.steps[0].versions()["text"].body == talk["opening"]  # type: ignore[attr-defined]
    assert [one.what for one in now.scenarios[0].expect] == ["inside"]
    assert parse_workflow(now.model_dump(mode="json")) == now


@pytest.mark.parametrize(
    ("text", "place"),
    [
        ("name: x\nsteps:\n- {kind: text, id: a, message: {nam: b}}", "line 3, steps.0.message.nam"),
        ("name: x\nsteps:\n- {kind: wait, id: a, duration: 3 moons}", "line 3, steps.0.duration"),
        ("name: x\nsteps:\n- {kind: dance, id: a}", "steps.0"),
        ("name: x\nsteps:\n- {kind: end, id: a}\n- {kind: end, id: a}", "stands twice"),
        ("name: [", "not readable"),
        ("a: &a [x]\nb: *a", "aliases"),
        ("- 1", "mapping"),
    ],
)
def test_a_bad_file_is_refused_with_the_place(text: str, place: str) -> None:
    with pytest.raises(BadFile) as error:
        read_workflow(text)
    assert any(place in fault for fault in error.value.faults)


@given(
    st.one_of(st.text(max_size=200), st.recursive(st.none() | st.booleans() | st.text(max_size=9), _nested).map(repr))
)
@settings(max_examples=200)
def test_whatever_is_in_a_file_it_is_a_workflow_or_refused_in_words(text: str) -> None:
    try:
        read_workflow(text)
    except BadFile as error:
        assert error.faults


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"steps": []}, "no-lines"),
        ({"starts": [{"kind": "tag_added", "tags": []}]}, "start-incomplete"),
        ({"steps": [{"kind": "text", "id": "a"}]}, "message-empty"),
        ({"steps": [{"kind": "tag", "id": "a"}]}, "tag-empty"),
        ({"steps": [{"kind": "end", "id": "a"}, {"kind": "call", "id": "b"}]}, "after-the-end"),
        (
            {"steps": [{"kind": "text", "id": "a", "message": {"name": "n", "body": "{{ contact.shoe }}"}}]},
            "message-unreadable",
        ),
    ],
)
def test_what_is_wrong_is_found_and_stops_publishing(change: dict, code: str) -> None:
    found = check(ask(**change))
    assert code in {one.code for one in found if one.severity == "error"}
    assert not can_publish(found)


def test_a_sound_workflow_can_be_published() -> None:
    assert can_publish(check(ask()))


def test_waits_of_5_2_1_3_2_1_days_read_as_days_0_5_7_8_11_13_14() -> None:
    """Common practice: how practitioners write a two-week series by day marks."""
    steps = [{"kind": "call", "id": "c0"}]
    for number, days in enumerate([5, 2, 1, 3, 2, 1]):
        steps += [
            {"kind": "wait", "id": f"w{number}", "duration": f"{days} days"},
            {"kind": "to_do", "id": f"t{number}", "title": "x"},
        ]
    reading = read(ask(steps=steps), datetime(2026, 3, 23, 16, 20, tzinfo=UTC), "Europe/London")  # over a clock change
    assert [line.acts.day for line in reading.lines if line.acts and not line.waits] == [0, 5, 7, 8, 11, 13, 14]
    assert reading.days == 14


def test_three_touches_of_three_kinds_on_the_first_day() -> None:
    """Common practice for a new enquiry: an email, a text and a call before the day is over."""
    steps = [{"kind": "email", "id": "e", "message": {"name": "E", "subject": "S", "body": "B"}},
             {"kind": "wait", "id": "w1", "duration": "10 minutes"},
             {"kind": "text", "id": "t", "message": {"name": "T", "body": "Hi"}},
             {"kind": "wait", "id": "w2", "duration": "2 hours"}, {"kind": "call", "id": "c", "say": "Hi"}]  # fmt: skip
    reading = read(ask(steps=steps), MONDAY, "Europe/London")
    assert reading.summary.startswith(
        "Starts when someone is tagged taster or when someone is enrolled by hand. On the same day: 1 text, 1 email, 1 call."
    )
    assert {line.acts.last_day for line in reading.lines if line.acts} == {0}


def test_the_ruler_shows_a_range_where_an_answer_decides() -> None:
    lines = {line.step: line.acts for line in read(ask(), MONDAY, "Europe/London").lines if line.acts}
    assert (lines["tag"].at, lines["tag"].last_at) == ("2026-03-02T09:00", "2026-03-05T09:00")
    assert (lines["mail"].day, lines["mail"].last_day) == (3, 3)
    assert (lines["note"].at, lines["note"].last_at) == ("2026-03-04T10:00", "2026-03-07T10:00")


def test_days_touches_and_steps_are_counted_for_the_whole_and_for_each_lane() -> None:
    """Lanes are alternatives: the fullest counts, by touches of all kinds together."""
    reading = read(ask(), MONDAY, "Europe/London")
    assert (reading.days, reading.touches, reading.steps) == (5, 2, 9)
    [answer] = [line for line in reading.lines if line.step == "answer"]
    counted = {id: (lane.steps, lane.touches, lane.last_day) for id, lane in answer.lanes.items()}
    assert counted == {"yes": (2, 1, 3), "out": (1, 0, 3), "other": (1, 0, 3), "none": (1, 1, 3)}
    mail = {"kind": "email", "message": {"name": "M", "subject": "S", "body": "B"}}
    loop = {"kind": "repeat", "id": "r", "times": 3, "lanes": [{"id": "l", "steps": [
        mail | {"id": "m"}, {"kind": "wait", "id": "w", "duration": "1 week"}]}]}  # fmt: skip
    reading = read(ask(steps=[loop, mail | {"id": "last"}]), MONDAY, "Europe/London")
    assert (reading.days, reading.touches, reading.steps) == (21, 4, 4)


def test_what_goes_by_the_contacts_own_dates_says_so_where_nobody_is_known() -> None:
    text = {"kind": "text", "message": {"name": "Soon", "body": "Soon"}}
    steps = [text | {"id": "now"}, {"kind": "around", "id": "b", "offset": "2 days"}, text | {"id": "soon"},
             {"kind": "each_year", "id": "y", "field": "birthday"}, text | {"id": "year"}]  # fmt: skip
    reading = read(ask(steps=steps), MONDAY, "Europe/London")
    assert {line.step: line.goes_by for line in reading.lines} == {
        "now": "", "b": "the appointment", "soon": "the appointment", "y": "birthday", "year": "birthday"}  # fmt: skip
    assert "By the appointment and birthday: 3 texts." in reading.summary


def test_a_rehearsal_stops_at_the_first_wait_without_an_answer_and_goes_on_with_one() -> None:
    assert rehearse(ask(), ADA, MONDAY, answers={}).awaits == "answer"
    said = rehearse(ask(), ADA, MONDAY, answers={"answer": Answer(Replied("keen"), Duration(3, "hour"))})
    assert said.contact.tags == {"wants a course"}
    silent = rehearse(ask(), ADA, MONDAY, answers={"answer": Answer()})
    assert [message.name for _, message in silent.messages] == ["Hello", "Ways"]


@pytest.fixture
def files(tmp_path: Path) -> Callable[..., list[str]]:
    def write(events: list | None = None, workflow: dict = ASK, contact: dict | None = None) -> list[str]:
        (tmp_path / "w.yaml").write_text(write_workflow(parse_workflow(workflow), "yaml"))
        (tmp_path / "c.json").write_text(json.dumps(contact or {"first_name": "Ada", "mobile": "+447700900123"}))
        (tmp_path / "e.json").write_text(json.dumps(events or []))
        names = [str(tmp_path / name) for name in ("w.yaml", "c.json", "e.json")]
        return [
            names[0],
            "--contact",
            names[1],
            "--events",
            names[2],
            "--start",
            "2026-03-02T09:00",
            "--zone",
            "Europe/London",
        ]

    return write


def test_the_command_line_prints_the_full_plan_and_outcome(files, capsys) -> None:  # type: ignore[no-untyped-def]
    assert main([*files([{"after": "PT3H", "reply": "Yes"}]), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert [moment["local"] for moment in report["plan"]] == [
        "2026-03-02T09:00",
        "2026-03-02T12:00",
        "2026-03-04T10:00",
    ]
    assert report["outcome"]["contact"]["tags"] == ["wants a course"]
    assert report["outcome"]["ended"] == "came to the end"
    assert [e["does"] for moment in report["plan"] for e in moment["effects"]] == ["send", "tag", "task", "note"]


@pytest.mark.parametrize(
    "event", [{"reply": "yes"}, {"after": "soon", "reply": "x"}, {"at": "2026-03-02T10:00", "wave": 1}]
)
def test_the_command_line_names_a_bad_event(files, capsys, event) -> None:  # type: ignore[no-untyped-def]
    assert main(files([event])) == 2
    assert capsys.readouterr().err.startswith("rehearse: ")


def test_a_reply_after_the_end_still_opts_out() -> None:
    played = rehearse(ask(), ADA, MONDAY, [(MONDAY + timedelta(days=60), Replied("STOP"))])
    assert played.contact.opted_out == {"text"}


def test_who_answers_and_leaves_gets_no_second_call() -> None:
    """Six texts, each with a call for who says yes, who then leaves: nobody is rung twice."""

    def asked(number: int) -> list[dict[str, Any]]:
        call = {"kind": "call", "id": f"ring-{number}", "say": "Hi"}
        lane = {
            "id": f"yes-{number}",
            "answer": "yes",
            "words": ["yes"],
            "steps": [call, {"kind": "end", "id": f"end-{number}"}],
        }
        text = {"kind": "text", "id": f"text-{number}", "message": {"name": f"T{number}", "body": "Still there?"}}
        return [text, {"kind": "wait_for_reply", "id": f"q-{number}", "limit": "4 days", "lanes": [lane]}]

    workflow = ask(steps=[step for number in range(6) for step in asked(number)])
    assert (touches_of(workflow.steps), most_touches(workflow.steps)) == ({"text": 6, "call": 1}, 7)
