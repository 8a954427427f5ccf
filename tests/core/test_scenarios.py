"""Scenarios: a workflow's own tests, played from its document; how a failure reads; the command line and its exit codes."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any, get_args

import pytest

from bluffside.commandline.rehearse import main
from bluffside.core.engine.effect_names import DOES
from bluffside.core.rehearsal.scenarios import not_reached, play_all
from bluffside.core.workflow.files import parse_workflow, read_workflow, write_workflow
from bluffside.core.workflow.scenario import ACTS, Does
from tests.core.examples import ASK, ask

EXAMPLES = Path(__file__).parents[2] / "docs/examples/workflows"


@pytest.mark.parametrize("path", sorted(EXAMPLES.glob("*.yaml")), ids=lambda path: path.stem)
def test_every_scenario_of_every_example_passes(path: Path) -> None:
    """Common practice in each: 72 hours for an answer to an opt-in request, with its three ends; reminders two days
    before and on the morning; the day marks 0, 5, 7, 8, 11, 13, 14; joining a dated series on the 18th."""
    workflow = read_workflow(path.read_text())
    others = [read_workflow(one.read_text()) for one in EXAMPLES.glob("*.yaml") if one != path]
    verdicts = play_all(workflow, others=others)
    assert verdicts
    assert [failure for verdict in verdicts for failure in verdict.failures] == []


YES: dict[str, Any] = {
    "name": "Says yes",
    "start": "2026-03-02T09:00",
    "events": [{"after": "3 hours", "reply": "Yes"}],
}


# Each expectation that does not come true, and the sentence it is told in.
@pytest.mark.parametrize(
    ("expect", "says"),
    [
        ([{"sent": "Hello", "by": "email"}], "Expected: “Hello” goes out by email. It went out by text."),
        ([{"tagged": "wants a course"}, {"sent": "Hello"}],
         "Expected: “Hello” goes out, after tagged “wants a course”. It came before that, on day 0 at 09:00."),
        ([{"tagged": "wants a course", "at": "10:00"}], "Expected: tagged “wants a course” at 10:00. It came on day 0 at 12:00."),
        ([{"note": "Reached the end", "by_day": 1}],
         "Expected: a note “Reached the end” is written by day 1. It came on day 2 at 10:00."),
        ([{"sent": "Ways"}], "Expected: “Ways” goes out. It never came; the contact left on day 2 at 10:00."),
        ([{"not_sent": "Hello"}], "Expected: “Hello” never goes out. “Hello” went out by text on day 0 at 09:00."),
        ([{"gone": True, "by_day": 1}],
         "Expected: gone by day 1. The contact left on day 2 at 10:00: came to the end."),
        ([{"not_sent": "Hello", "on_day": 1}, {"inside": True, "on_day": 1}, {"not_sent": "", "by_day": 0}],
         "Expected: no message goes out by day 0. “Hello” went out by text on day 0 at 09:00."),
        ([{"inside": True}], "Expected: still inside. The contact left on day 2 at 10:00: came to the end."),
        ([{"does": "webhook"}], "Expected: webhook. It never came; the contact left on day 2 at 10:00."),
    ],
)  # fmt: skip
def test_an_expectation_that_fails_reads_like_a_sentence(expect: list[dict[str, Any]], says: str) -> None:
    [verdict] = play_all(ask(scenarios=[YES | {"expect": expect}]))
    assert verdict.failures == (says,)


def test_when_yes_comes_after_three_hours_then_tagged_then_rung_and_gone_by_day_2() -> None:
    expect = [{"sent": "Hello", "at": "09:00"}, {"tagged": "wants a course", "at": "12:00"}, {"task": "call"},
              {"note": "Reached the end"}, {"gone": True, "by_day": 2}, {"not_sent": "Ways"}]  # fmt: skip
    workflow = ask(scenarios=[YES | {"expect": expect}])
    [verdict] = play_all(workflow)
    assert verdict.passed
    assert not_reached(workflow, [verdict]) == ["bye", "read", "mail"]


# What can happen in a scenario, each making a workflow go on that waits for it.
WAITS_FOR: dict[str, tuple[dict[str, Any], dict[str, Any]]] = {
    "click": ({"click": "Hello", "url": "x"}, {"kind": "link_clicked", "message": "Hello"}),
    "form": ({"form": "Open day"}, {"kind": "form_sent", "form": "Open day"}),
    "keyword": ({"keyword": "SAIL"}, {"kind": "keyword_texted", "keyword": "sail"}),
    "lead": ({"lead": "Adverts"}, {"kind": "lead_received", "source": "Adverts"}),
    "tag": ({"tag": "vip"}, {"kind": "tag_added", "tags": ["vip"]}),
    "untag": ({"untag": "new"}, {"kind": "tag_removed", "tags": ["new"]}),
    "list": ({"list": "regatta"}, {"kind": "list_joined", "list": "regatta"}),
    "field": ({"field": "boat", "to": "cutter"}, {"kind": "field_changed", "field": "boat"}),
    "stage": ({"stage": "Quoted", "by": "Mel"},
              {"kind": "stage_changed", "into": "Quoted", "out_of": "New", "by": {"who": "only", "member": "Mel"}}),
    "won": ({"won": ""}, {"kind": "deal", "what": "won", "pipeline": "Courses"}),
    "rests": ({"rests": "New"}, {"kind": "deal_rests", "stage": "New"}),
    "lost": ({"lost": "Gone"}, {"kind": "deal", "what": "lost"}),
    "outcome": ({"outcome": "reached", "step": "ring"}, {"kind": "task_done", "outcomes": ["reached"]}),
    "book": ({"book": "Fitting", "start": "2026-03-09T10:00"}, {"kind": "appointment", "what": "booked", "type": "Fitting"}),
    "move": ({"move": "Taster", "start": "2026-03-09T10:00"}, {"kind": "appointment", "what": "moved"}),
    "cancel": ({"cancel": "Taster"}, {"kind": "appointment", "what": "cancelled"}),
    "miss": ({"miss": "Taster"}, {"kind": "appointment", "what": "missed"}),
    "attend": ({"attend": "Taster"}, {"kind": "appointment", "what": "attended"}),
    "wait_for": ({"wait_for": "Taster"}, {"kind": "appointment", "what": "waited for"}),
    "buys": ({"buys": "Dinghy course", "amount": "120"}, {"kind": "purchase_made", "item": "Dinghy course"}),
    "opt_out": ({"opt_out": "email"}, {"kind": "opted_out", "channel": "email"}),
    "reply": ({"reply": "hm"}, {"kind": "replied"}),
}  # fmt: skip
CONTACT = {
    "first_name": "Wren", "mobile": "+447700900077", "tags": ["new"],
    "deals": [{"pipeline": "Courses", "stage": "New"}],
    "appointments": [{"type": "Taster", "start": "2026-03-05T10:00"}],
}  # fmt: skip


def test_every_act_is_tried_here_and_what_can_be_expected_is_what_effects_are_called() -> None:
    assert set(ACTS) == set(WAITS_FOR) | {"bounce", "remove", "read"}  # read: see test_unread_answers
    assert set(get_args(Does)) < set(DOES.values())


@pytest.mark.parametrize("act", WAITS_FOR)
def test_each_thing_that_can_happen_is_noticed(act: str) -> None:
    data, on = WAITS_FOR[act]
    steps = [{"kind": "wait_for", "id": "w", "limit": "2 days", "lanes": [
        {"id": "l", "on": on, "steps": [{"kind": "note", "id": "n", "text": "seen"}]}]}]  # fmt: skip
    scenario = {
        "name": act,
        "contact": CONTACT,
        "events": [{"after": "1 day", **data}],
        "expect": [{"note": "seen", "on_day": 1}],
    }
    [verdict] = play_all(ask(leaves_on=[], steps=steps, scenarios=[scenario]))
    assert verdict.failures == ()


def test_a_bounce_closes_the_channel_and_somebody_taken_out_is_gone() -> None:
    reach = {"kind": "reach", "id": "r", "name": "News", "email": {"subject": "S", "body": "B"}, "text": {"body": "B"}}
    wait = {"kind": "wait", "id": "w", "duration": "1 day"}
    contact = CONTACT | {"email": "wren@example.com"}
    [bounced, removed] = play_all(
        ask(
            steps=[wait, reach],
            scenarios=[
                {"name": "a", "contact": contact, "events": [{"after": "1 hour", "bounce": "email"}],
                 "expect": [{"sent": "News", "by": "text"}]},
                {"name": "b", "contact": contact, "events": [{"at": "2026-03-02T10:00", "remove": "moved away"}],
                 "expect": [{"gone": True, "by_day": 0}, {"not_sent": ""}]},
            ],
        )
    )  # fmt: skip
    assert (bounced.failures, removed.failures) == ((), ())


@pytest.mark.parametrize(
    ("scenario", "place"),
    [
        ({"name": "x", "events": [{"reply": "yes"}]}, "scenarios.0.events.0"),
        ({"name": "x", "events": [{"after": "1 day", "reply": "yes", "click": "Hello"}]}, "scenarios.0.events.0"),
        ({"name": "x", "events": [{"after": "soon", "reply": "yes"}]}, "scenarios.0.events.0.after"),
        ({"name": "x", "events": [{"after": "1 day", "move": "Taster"}]}, "say when the appointment starts"),
        ({"name": "x", "expect": [{"sent": "A", "tagged": "b"}]}, "scenarios.0.expect.0"),
        ({"name": "x", "zone": "Mars/Base"}, "scenarios.0.zone"),
        ({"name": "x", "start": "2026-03-02T09:00+01:00"}, "scenarios.0.start"),
    ],
)
def test_a_scenario_that_cannot_be_read_names_the_place(scenario: dict[str, Any], place: str) -> None:
    with pytest.raises(ValueError, match=place.replace(".", r"\.")):
        parse_workflow(ASK | {"scenarios": [scenario]})


# ---- the command line

Written = Callable[..., str]


@pytest.fixture
def written(tmp_path: Path) -> Written:
    """Writes a workflow into the folder and answers its path."""

    def write(name: str, **changes: Any) -> str:
        path = tmp_path / f"{name}.yaml"
        path.write_text(write_workflow(ask(name=name, **changes), "yaml"))
        return str(path)

    return write


PASSES = YES | {"expect": [{"tagged": "wants a course"}]}
FAILS = YES | {"name": "Never mind", "expect": [{"sent": "Goodbye"}]}


def test_exit_codes_tell_a_build_server_how_it_went(written: Written, tmp_path: Path, capsys: Any) -> None:
    good = written("good", scenarios=[PASSES])
    assert main([good]) == 0
    assert "1 scenarios played, 0 failed." in capsys.readouterr().out
    none = written("none")
    assert main([none]) == 3
    written("bad", scenarios=[FAILS, PASSES])
    assert main([str(tmp_path)]) == 1  # the whole folder
    said = capsys.readouterr().out
    assert "FAILED  Never mind" in said and "Expected: “Goodbye” goes out." in said
    assert "3 scenarios played, 1 failed." in said
    unfinished = written("unfinished", scenarios=[PASSES], starts=[])
    assert main([unfinished]) == 1  # it could not be published
    assert "ERROR   Nothing starts it." in capsys.readouterr().out
    (tmp_path / "broken.yaml").write_text("name: x\nsteps: [{kind: dance}]")
    assert main([str(tmp_path)]) == 2
    assert "broken.yaml is not a workflow" in capsys.readouterr().err
    assert main([str(tmp_path / "nowhere.yaml")]) == 2


def test_the_report_is_data_when_asked_for(written: Written, capsys: Any) -> None:
    assert main([written("bad", scenarios=[FAILS]), "--json"]) == 1
    [file] = json.loads(capsys.readouterr().out)
    assert file["scenarios"] == [
        {
            "name": "Never mind",
            "failures": ["Expected: “Goodbye” goes out. It never came; the contact left on day 2 at 10:00."],
        }
    ]
    assert file["not_reached"] == ["bye", "read", "mail"]


def test_workflows_of_one_folder_hand_over_to_one_another_and_the_accounts_care_is_kept(
    written: Written, tmp_path: Path, capsys: Any
) -> None:
    written(
        "second",
        starts=[{"kind": "handed_over"}],
        steps=[{"kind": "text", "id": "t", "message": {"name": "Next", "body": "B"}}],
    )
    expect = [{"handed_over": "second"}, {"sent": "Next", "on_day": 1, "at": "08:00"}]
    scenario = {"name": "Late", "start": "2026-03-02T22:00", "expect": expect}
    written("first", steps=[{"kind": "hand_over", "id": "h", "workflow": "second"}], scenarios=[scenario])
    (tmp_path / "account").mkdir()
    account = tmp_path / "account" / "house.json"
    account.write_text(json.dumps({"name": "Tern", "care": {"quiet": [{"start": "21:00", "end": "08:00"}]}}))
    folder = [str(tmp_path / "first.yaml"), str(tmp_path / "second.yaml")]
    assert main([*folder, "--account", str(account)]) == 0
    capsys.readouterr()
    assert main(folder) == 1  # without the house's quiet hours it goes out at night


def test_points_are_given_by_the_accounts_rules(written: Written, tmp_path: Path) -> None:
    hot = {"test": "score", "compare": "at_least", "points": 30}
    steps = [{"kind": "wait", "id": "w", "duration": "2 days"}, {"kind": "choose", "id": "c", "lanes": [
        {"id": "hot", "when": hot, "steps": [{"kind": "note", "id": "n", "text": "hot"}]}]}]  # fmt: skip
    scenario = {"name": "x", "events": [{"after": "1 day", "click": "News"}], "expect": [{"note": "hot", "on_day": 2}]}
    path = written("scored", steps=steps, scenarios=[scenario])
    (tmp_path / "account").mkdir()
    account = tmp_path / "account" / "house.json"
    account.write_text(
        json.dumps({"score": {"doing": [{"name": "clicks", "points": 30, "on": {"kind": "link_clicked"}}]}})
    )
    assert main([path, "--account", str(account)]) == 0
    assert main([path]) == 1
