"""The catalogue that the page is drawn from, and what stands around a script: names put in place of others, two versions
side by side, the flowchart, the starter set."""

import re
from datetime import UTC, datetime
from typing import Any

import pytest
from hypothesis import given, settings

from bluffside.core.catalogue import Catalogue, CatalogueSentence, catalogue
from bluffside.core.engine.effects import SendMessage
from bluffside.core.facts import Contact, Facts
from bluffside.core.rehearsal.rehearse import rehearse
from bluffside.core.workflow.checks import can_publish, check
from bluffside.core.workflow.differences import differences, side_by_side
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.files import parse_workflow, to_data
from bluffside.core.workflow.mermaid import flowchart
from bluffside.core.workflow.reading import read
from bluffside.core.workflow.references import references, renamed
from bluffside.starters import starters
from tests.core.making import any_workflows

MONDAY = datetime(2026, 3, 2, 9, 30, tzinfo=UTC)
ALL: Catalogue = catalogue()
SENTENCES: list[CatalogueSentence] = [
    *ALL.kinds, *ALL.triggers, *ALL.tests, *(kind.lane for kind in ALL.kinds if kind.lane)
]  # fmt: skip


@pytest.mark.parametrize("one", SENTENCES, ids=lambda one: f"{type(one).__name__}-{one.kind}")
def test_what_a_sentence_names_is_a_part_that_can_be_edited(one: CatalogueSentence) -> None:
    parts = {part.field: part for part in one.parts}
    assert set(re.findall(r"\{(\w+)\}", one.sentence)) <= set(parts)
    for part in one.parts:
        assert part.label and part.field in one.blank
        if part.sort in ("choice", "choices", "channel", "channels", "yes-no", "weekdays"):
            assert len(part.choices) > 1 and all(choice.words for choice in part.choices)
        if part.sort == "message":
            assert part.message and "body" in part.message


def test_every_field_of_a_step_can_be_edited_but_what_the_page_lays_out_itself() -> None:
    for kind in ALL.kinds:
        assert set(kind.blank) - {part.field for part in kind.parts} <= {"kind", "lanes"}, kind.kind


@given(any_workflows())
@settings(max_examples=60)
def test_a_script_beside_itself_is_the_same_and_beside_none_all_new(workflow: Workflow) -> None:
    rows = side_by_side(workflow, workflow)
    assert {row.state for row in rows} <= {"same"}
    empty = workflow.model_copy(update={"steps": ()})
    assert {row.state for row in side_by_side(empty, workflow)} <= {"new"}
    ids = [step.id for step in walk(workflow.steps)]
    assert [row.id for row in rows if not row.is_lane] == ids


def test_side_by_side_says_what_changed_came_and_went() -> None:
    old = parse_workflow({"name": "x", "steps": [tag("a", "one"), tag("b", "two"), tag("c", "three")]})
    new = parse_workflow({"name": "x", "steps": [tag("a", "one"), tag("d", "new"), tag("b", "other")]})
    rows = [(row.id, row.state, row.old, row.new) for row in side_by_side(old, new)]
    assert rows == [
        ("a", "same", "Tags one.", "Tags one."),
        ("d", "new", "", "Tags new."),
        ("b", "changed", "Tags two.", "Tags other."),
        ("c", "gone", "Tags three.", ""),
    ]
    assert len(differences(old, new)) == 3


def test_side_by_side_shows_the_words_that_changed_where_the_sentence_is_the_same() -> None:
    def with_body(body: str, purpose: str) -> Workflow:
        step = {"kind": "text", "id": "t", "purpose": purpose, "message": {"name": "T", "body": body}}
        return parse_workflow({"name": "x", "steps": [step]})

    [row] = side_by_side(with_body("Hi {{ contact.first_name }}", "marketing"), with_body("Hello", "service"))
    assert [(one.label, one.old, one.new) for one in row.parts] == [
        ("purpose", "marketing", "a service message"),
        ("words", "Hi [first name]", "Hello"),
    ]


def tag(id: str, name: str) -> dict[str, Any]:
    return {"kind": "tag", "id": id, "tag": name}


@given(any_workflows())
@settings(max_examples=60)
def test_names_put_in_place_of_others_are_the_only_change(workflow: Workflow) -> None:
    used = [(one.kind, one.name) for one in references(workflow)]
    fresh = {key: f"{key[1]} here" for key in used}
    there = {(kind, name): old for (kind, old), name in fresh.items()}
    moved = renamed(workflow, fresh)
    assert [(one.kind, one.name) for one in references(moved)] == [(kind, fresh[kind, name]) for kind, name in used]
    assert renamed(moved, there) == workflow
    assert parse_workflow(to_data(moved)) == moved  # and it is a workflow still


@given(any_workflows())
@settings(max_examples=60)
def test_a_flowchart_has_a_box_a_line_and_every_arrow_leads_from_box_to_box(workflow: Workflow) -> None:
    """By the grammar of a flowchart as its documentation gives it (from memory): boxes with quoted words, arrows with
    quoted words or none."""
    first, *lines = flowchart(workflow).splitlines()
    assert first == "flowchart TD"
    boxes, arrows = set(), []
    for line in lines:
        if box := re.fullmatch(r'    (\w+)(\[\(?|\(\[|\{)"([^"]*)"(\]\)|\]|\})', line):
            boxes.add(box[1])
        elif arrow := re.fullmatch(r'    (\w+) -->(?:\|"([^"]*)"\|)? (\w+)', line):
            arrows.append((arrow[1], arrow[3]))
        else:
            assert line == "    left([Leaves])"
            boxes.add("left")
    assert len(boxes) == len(list(walk(workflow.steps))) + 2
    assert {end for arrow in arrows for end in arrow} <= boxes


def test_words_in_a_flowchart_cannot_break_out_of_it() -> None:
    step = {"kind": "note", "id": "n", "text": 'He said "so", <b>twice</b>; `x` #1\n--> left'}
    chart = flowchart(parse_workflow({"name": "x", "steps": [step]}))
    assert "#quot;so#quot;" in chart and "<b>" not in chart and "\n--> left" not in chart


# ---- other wordings


def test_other_wordings_take_turns_for_who_gets_the_message_again() -> None:
    message = {"name": "Hello", "body": "First.", "others": [{"body": "Second."}, {"body": "Third."}]}
    lane = {"id": "each", "steps": [{"kind": "wait", "id": "w"}, {"kind": "text", "id": "t", "message": message}]}
    workflow = parse_workflow({"name": "x", "steps": [{"kind": "repeat", "id": "r", "times": 4, "lanes": [lane]}]})
    played = rehearse(workflow, Facts(Contact(mobile="+447700900001")), MONDAY)
    bodies = [effect.body for _, effect in played.effects if isinstance(effect, SendMessage)]
    assert bodies == ["First.", "Second.", "Third.", "First."]
    said = [one.values["wording"] for at in played.moments for one in at.reasons if "wording" in one.values]
    assert said == ["1 of 3", "2 of 3", "3 of 3", "1 of 3"]


def test_another_subject_goes_with_its_wording_and_the_first_serves_where_there_is_none() -> None:
    message = {"subject": "One", "body": "a", "others": [{"heading": "Two", "body": "b"}, {"body": "c"}]}
    wording = (
        parse_workflow({"name": "x", "steps": [{"kind": "email", "id": "e", "message": message}]}).steps[0].message
    )  # type: ignore[attr-defined]
    assert [wording.in_turn(number)[:2] for number in range(4)] == [
        ("One", "a"),
        ("Two", "b"),
        ("One", "c"),
        ("One", "a"),
    ]


# ---- the ruler


def test_the_ruler_says_why_a_line_comes_later_than_it_aims_at() -> None:
    steps = [
        {"kind": "wait", "id": "w", "duration": "5 days", "at": "09:00", "weekdays": ["mon", "tue", "wed", "thu", "fri"]},
        {"kind": "wait", "id": "v", "duration": "12 hours"},
        {"kind": "text", "id": "t", "message": {"name": "T", "body": "Hi"}},
    ]  # fmt: skip
    workflow = parse_workflow({"name": "x", "hours": {"start": "09:00", "end": "19:00"}, "steps": steps})
    lines = {line.step: line for line in read(workflow, MONDAY, "UTC").lines}
    assert lines["w"].shifts == ["moved from Sat to Mon: weekends excluded"]
    assert lines["t"].shifts == ["held back: outside the sending hours, any day, 09:00 to 19:00 in UTC"]
    assert lines["t"].acts and lines["t"].acts.at == "2026-03-10T09:00"


# ---- the starter set


@pytest.mark.parametrize(("key", "starter"), starters().items())
def test_a_starter_can_be_published_as_it_is(key: str, starter: Workflow) -> None:
    assert can_publish(check(starter)), key
    assert starter.description and not check(starter), key


def test_the_starter_set_has_what_a_consultant_begins_with() -> None:
    assert len(starters()) == 15
    speaks = {step.speaks for starter in starters().values() for step in walk(starter.steps)}
    assert {"text", "email", "call"} <= speaks
