"""Whatever stands in a document: it is refused in one sentence with its place, or it can be read aloud, checked and
played. Found by changing the shipped examples, so that each new part of a document is tried by itself."""

import copy
import json
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st

from bluffside.commandline.rehearse import main
from bluffside.core.messages.merge import BadTemplate
from bluffside.core.rehearsal.rehearse import rehearse
from bluffside.core.workflow.checks import can_publish, check
from bluffside.core.workflow.files import parse_workflow, read_workflow, to_data, write_workflow
from bluffside.core.workflow.plain_data import BadFile, Place
from bluffside.core.workflow.program import GoesRoundTooOften
from bluffside.core.workflow.reading import read
from tests.core.examples import ADA, MONDAY

ROOT = Path(__file__).parents[2]
FILES = [
    *sorted((ROOT / "docs/examples/workflows").glob("*.yaml")),
    *sorted((ROOT / "src/bluffside/starters").glob("*.yaml")),
]
DOCUMENTS = [to_data(read_workflow(path.read_text())) for path in FILES]
CONTACT = json.loads((ROOT / "docs/examples/contact.json").read_text())
EVENTS = json.loads((ROOT / "docs/examples/events.json").read_text())
ACCOUNT = {"name": "Tern Harbour", "zone": "Europe/London", "care": {"quiet": [{"start": "21:00", "end": "08:00"}],
           "limits": [{"messages": 3, "within": "7 days"}], "holidays": {"country": "GB", "also": ["2026-05-04"]}},
           "score": {}}  # fmt: skip
HOSTILE = [
    None, True, 0, -1, 100, 72_000, 10**18, 10**400, 1e308, "", " ", "x" * 3_000, [], [[]], {}, {"": ""}, ["x"], "NaN",
    "19:00Z", "25:00", "2026-03-02T09:00+05:00", "9999-12-31", "9999-12-31T23:59", "10359-01-01", "0001-01-01",
    "2199-12-31", "2026-02-30", "99999 weeks", "1200 months", "99999 seconds", "P99999999W", "PT9999999H", "Narnia/Nowhere",
    "FREQ=DAILY;INTERVAL=99999999", "FREQ=YEARLY;BYMONTHDAY=31;BYMONTH=2", "FREQ=DAILY;COUNT=1", "{{", "{{ contact.shoe }}",
    "{% for a in b %}", "http://[", "https://x.example.com:99999/", "{{ contact.first_name | nonsense }}", "\u0000", "\ud800", "‮", "repeat", "never", "text", "out",
]  # fmt: skip


def places(data: Any, place: Place = ()) -> Iterator[Place]:
    inside = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    for key, one in inside:
        yield (*place, key)
        yield from places(one, (*place, key))


def changed(data: Any, place: Place, how: str, value: Any) -> Any:
    """The data with one part of it replaced, taken out, put in twice, or with something beside it."""
    data = copy.deepcopy(data)
    holder = data
    for key in place[:-1]:
        holder = holder[key]
    match how:
        case "replaced":
            holder[place[-1]] = value
        case "gone":
            del holder[place[-1]]
        case "twice" if isinstance(holder, list):
            holder.append(copy.deepcopy(holder[place[-1]]))
        case "beside" if isinstance(holder, dict):
            holder[str(value)[:40]] = value
    return data


@st.composite
def mutated(draw: st.DrawFn, of: Any) -> Any:
    data = draw(st.sampled_from(of)) if isinstance(of, list) and of is not EVENTS else of
    for _ in range(draw(st.integers(1, 3))):
        if found := list(places(data)):
            how = draw(st.sampled_from(["replaced", "replaced", "replaced", "gone", "twice", "beside"]))
            data = changed(data, draw(st.sampled_from(found)), how, draw(st.sampled_from(HOSTILE)))
    return data


@given(mutated(DOCUMENTS))
@settings(max_examples=400, deadline=None)
def test_whatever_stands_in_a_document_it_is_refused_in_words_or_can_be_played(data: Any) -> None:
    try:
        workflow = parse_workflow(data)
    except BadFile as error:
        assert all(fault and "\n" not in fault and "Value error" not in fault for fault in error.faults)
        return
    assert parse_workflow(to_data(workflow)) == workflow == read_workflow(write_workflow(workflow, "yaml"))
    assert read(workflow, MONDAY, "Europe/London").summary and check(workflow) is not None
    try:
        rehearse(workflow, ADA, MONDAY)
    except (BadTemplate, GoesRoundTooOften):
        assert not can_publish(check(workflow))


@pytest.fixture(scope="module")
def play(tmp_path_factory: pytest.TempPathFactory) -> Any:
    folder = tmp_path_factory.mktemp("files")

    def run(document: Any, contact: Any, events: Any, account: Any) -> int:
        given = {"workflow": document, "contact": contact, "events": events, "account": account}
        path = {}
        for name, data in given.items():
            path[name] = str(folder / f"{name}.json")
            Path(path[name]).write_text(data if isinstance(data, str) else json.dumps(data))
        start = ["--start", "2026-03-02T09:00", "--zone", "Europe/London", "--account", path["account"]]
        alone = main([path["workflow"], "--contact", path["contact"], "--events", path["events"], *start])
        return max(alone, main([path["workflow"], "--account", path["account"]]))

    return run


@given(st.data())
@settings(max_examples=150, deadline=None)
def test_whatever_is_in_its_files_the_command_line_answers_in_words(play: Any, data: st.DataObject) -> None:
    which = data.draw(st.sampled_from(["document", "contact", "events", "account"]))
    given = {"document": DOCUMENTS[0], "contact": CONTACT, "events": EVENTS, "account": ACCOUNT}
    given[which] = data.draw(mutated(DOCUMENTS if which == "document" else given[which]))
    assert play(**given) in (0, 1, 2, 3)


STEPS = "name: x\nsteps:\n"
INNER = "{kind: repeat, id: c, times: 100, lanes: [{id: cl, steps: [{kind: tag, id: t, tag: a}]}]}"
NEST = f"{{kind: repeat, id: b, times: 100, lanes: [{{id: bl, steps: [{INNER}]}}]}}"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (STEPS + "- {kind: on_day, id: a, at: '19:00Z'}", "line 3, steps.0.at: “19:00Z” is not a time of day"),
        (STEPS + "- {kind: on_day, id: a, at: 72000}", "line 3, steps.0.at: “72000” is not a time of day"),
        ("name: x\nhours:\n  start: 19:00Z", "line 3, hours.start: “19:00Z” is not a time of day"),
        (STEPS + "- {kind: on_date, id: a, date: 9999-12-31}", "line 3, steps.0.date: the year 9999 is out of reach"),
        (STEPS + "- {kind: on_date, id: a, date: 10359-01-01}", "line 3, steps.0.date: “10359-01-01” is not a date"),
        (STEPS + "- {kind: wait, id: a, duration: 99999 weeks}", "line 3, steps.0.duration: “99999 weeks” is more than"),
        ("name: x\nscenarios:\n- {name: s, start: '2026-03-02T09:00+05:00'}", "line 3, scenarios.0.start: a local time"),
        ("name: x\nscenarios:\n- name: s\n  events:\n  - {after: P99999999W, reply: a}", "line 5, scenarios.0.events.0.after"),
        ("name: x\nscenarios:\n- name: s\n  events:\n  - {at: '2026-03-05T10:00Z', reply: a}", "line 5, scenarios.0.events.0.at"),
        ("name: x\nname: y", "the key “name” stands twice in one place (line 2)"),
        ('{"name": "x",\n "name": "y"}', "the key “name” stands twice in one place"),
        ('{"name": NaN}', "NaN is not a number"),
        ("name: x\ndescription: \"a\\0b\"", "description: a character that no text has"),
    ],
)  # fmt: skip
def test_what_is_out_of_bounds_is_said_with_its_place(text: str, said: str) -> None:
    with pytest.raises(BadFile) as error:
        read_workflow(text)
    assert said in str(error.value)


def test_loops_in_loops_are_refused_before_they_are_played(tmp_path: Path, capsys: Any) -> None:
    path = tmp_path / "loops.yaml"
    path.write_text(
        f"{STEPS}- {{kind: repeat, id: a, times: 100, lanes: [{{id: al, steps: [{NEST}]}}]}}\nscenarios: [{{name: s}}]"
    )
    workflow = read_workflow(path.read_text())
    assert {one.step for one in check(workflow) if one.code == "repeats-too-often"} == {"b", "c", ""}
    assert read(workflow, MONDAY, "UTC").steps == 4
    assert main([str(path)]) == 2
    assert "too often to be played" in capsys.readouterr().err


def test_a_template_that_cannot_be_read_is_said_with_its_file_and_line(tmp_path: Path, capsys: Any) -> None:
    path = tmp_path / "words.yaml"
    path.write_text(f"{STEPS}- {{kind: note, id: a, text: fine}}\n- kind: text\n  id: hello\n  message: {{name: Hello, body: '{{{{'}}\n"
                    "scenarios: [{name: s}]")  # fmt: skip
    assert main([str(path)]) == 2
    assert f"rehearse: {path}, line 4, “hello”: the message " in capsys.readouterr().err


def test_what_lies_beyond_all_time_is_reckoned_to_its_end() -> None:
    waits = [{"kind": "wait", "id": f"w{n}", "duration": "1200 months"} for n in range(3)]
    played = rehearse(parse_workflow({"name": "x", "steps": waits}), ADA, MONDAY)
    assert played.state.ended and played.moments[-1].at == datetime(2200, 1, 1, tzinfo=UTC)


def test_yaml_that_would_unfold_or_dig_is_refused_at_once() -> None:
    bombs = ["a: &a [x]\nb: *a", "[" * 50_000, "{a: " * 50_000, yaml.safe_dump({"name": "x" * 1_000_001})]
    for text in bombs:
        with pytest.raises(BadFile):
            read_workflow(text)
