"""Small things in which a rehearsal, a split or a message said something else than what is so."""

from dataclasses import replace
from datetime import timedelta

import pytest

from bluffside.core.engine.effects import SetField
from bluffside.core.events import Event
from bluffside.core.facts import Contact, Facts
from bluffside.core.messages.merge import render
from bluffside.core.rehearsal.rehearse import Rehearsal, rehearse
from bluffside.core.steps.set_field import WriteField
from bluffside.core.steps.split import Split
from bluffside.core.timing.local import to_local
from tests.core.examples import ADA, MONDAY, ask


def sentences(played: Rehearsal) -> str:
    return " ".join(reason.sentence for moment in played.moments for reason in moment.reasons)


def test_two_workflows_with_the_same_line_do_not_split_alike() -> None:
    """Halves that are drawn independently agree in half of all cases: of 1,000, within five standard deviations of 500."""
    lanes = [{"id": "a", "name": "A", "share": 1}, {"id": "b", "name": "B", "share": 1}]
    split = Split.model_validate({"id": "s", "lanes": lanes})
    people = [str(number) for number in range(1_000)]
    alike = sum(split.lane_for(one, "Spring") == split.lane_for(one, "Spring, a copy") for one in people)
    assert abs(alike - 500) < 5 * 15.8
    assert all(split.lane_for(one, "Spring") == split.lane_for(one, "Spring") for one in people)


def test_a_changed_time_zone_is_heard_in_its_own_turn() -> None:
    there = "Pacific/Auckland"
    steps = [
        {"kind": "set_field", "id": "zone", "field": "zone", "value": there},
        {"kind": "wait", "id": "w", "duration": "1 day", "at": "09:00"},
        {"kind": "note", "id": "n", "text": "there"},
    ]
    played = rehearse(ask(steps=steps), ADA, MONDAY)
    assert to_local(played.effects[-1][0], there).strftime("%H:%M") == "09:00"


@pytest.mark.parametrize("tags", [frozenset({"keen"}), frozenset[str]()])
def test_a_tag_somebody_has_already_is_no_news(tags: frozenset[str]) -> None:
    lane = {
        "id": "l",
        "on": {"kind": "tag_added", "tags": ["keen"]},
        "steps": [{"kind": "note", "id": "n", "text": "x"}],
    }
    workflow = ask(steps=[{"kind": "wait_for", "id": "w", "limit": "2 days", "lanes": [lane]}], leaves_on=[])
    at = MONDAY + timedelta(hours=1)
    played = rehearse(workflow, ADA.with_contact(tags=tags), MONDAY, [(at, Event("tag.added", at, {"tag": "keen"}))])
    assert bool(played.effects) == (not tags)


@pytest.mark.parametrize(
    ("field", "value", "fault"),
    [
        ("zone", "Narnia/Nowhere", "“Narnia/Nowhere” is not a time zone; use a name like Europe/London."),
        ("email", "ada at home", "“ada at home” is not an email address."),
        ("mobile", "07700 900123", "“07700 900123” is not a number with its country (+44 …)."),
        ("zone", "Australia/Hobart", ""),
        ("email", "Ada@Example.com", ""),
        ("mobile", "+44 7700 900123", ""),
    ],
)
def test_what_must_be_a_zone_an_address_or_a_number_is_checked_where_it_is_set(
    field: str, value: str, fault: str
) -> None:
    step = WriteField(id="f", field=field, value=value)
    assert [one.sentence for one in step.faults()] == ([fault] if fault else [])
    merged = step.model_copy(update={"value": "{{ contact.last_name }}"})  # known only when it is there
    played = rehearse(ask(steps=[merged.model_dump(mode="json")]), ADA.with_contact(last_name=value), MONDAY)
    assert any(isinstance(effect, SetField) for _, effect in played.effects) == (not fault)
    assert (f"Left {field} as it is" in sentences(played)) == bool(fault)


def test_a_name_of_blanks_is_none_and_a_mark_in_one_turns_nothing_around_it() -> None:
    """Unicode Standard Annex 9: first strong isolate and its end keep a direction to what stands between them."""
    body = 'Hi {{ contact.first_name | default: "there" }}, it is us'

    def to(name: str) -> str:
        return render(body, Facts(replace(Contact(), first_name=name), ADA.account), {})

    assert (to("   "), to(" Ada ")) == ("Hi there, it is us", "Hi Ada, it is us")
    assert to("\u202eadA") == "Hi \u2068\u202eadA\u2069, it is us"
