"""Messages of the library in scripts: their words, and nothing else of a script, are the library's."""

from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.messages.replacing import replaced
from bluffside.core.steps import KINDS
from bluffside.core.steps.speaking import Speaking
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.files import parse_workflow, read_workflow, to_data, write_workflow
from bluffside.core.workflow.library import as_message, message_of, named, said_by, saying
from bluffside.core.workflow.references import references, renamed
from tests.core.making import any_workflows

NAMES = ("Hello", "Dates")
TEXT = KINDS["text"].model_validate({"kind": "text", "id": "m", "message": {"name": "x", "body": "New words"}})
REACH = KINDS["reach"].model_validate(
    {"kind": "reach", "id": "m", "purpose": "service", "sender": "Desk", "email": {"subject": "Soon", "body": "By mail"}, "text": {"body": "By text"}}
)  # fmt: skip
LIBRARY: dict[str, Speaking] = {"Hello": TEXT, "Dates": REACH}  # type: ignore[dict-item]


def from_library(document: Workflow, names: list[str]) -> Workflow:
    """The document with some of its speaking lines naming a message."""
    data, left = to_data(document), list(names)

    def give(steps: list[dict[str, object]]) -> None:
        for step in steps:
            if left and issubclass(KINDS[str(step["kind"])], Speaking) and (name := left.pop()):
                step["library"] = name
            for lane in step.get("lanes", ()):  # type: ignore[attr-defined]
                give(lane["steps"])

    give(data["steps"])
    return parse_workflow(data)


@given(any_workflows(), st.lists(st.sampled_from(["", *NAMES, "gone"]), max_size=6))
def test_a_script_says_what_the_library_says_and_is_the_same_but_for_that(document: Workflow, names: list[str]) -> None:
    written = from_library(document, names)
    said = saying(written, LIBRARY)
    assert [step.id for step in walk(said.steps)] == [step.id for step in walk(written.steps)]
    for before, after in zip(walk(written.steps), walk(said.steps), strict=True):
        if not isinstance(before, Speaking) or before.library not in LIBRARY:
            assert after == before or not isinstance(before, Speaking)  # lanes below may say others
            continue
        assert isinstance(after, Speaking)
        message = LIBRARY[before.library]
        assert after.kind == message.kind and after.purpose == message.purpose and after.held == before.held
        assert after.sender == (before.sender or message.sender) and after.title == before.library
        assert {one.body for one in after.versions().values()} == {one.body for one in message.versions().values()}
    assert saying(said, LIBRARY) == said
    assert list(said_by(said)) == list(said_by(written))
    for kind in ("json", "yaml"):  # a file carries the words that it needs
        assert read_workflow(write_workflow(said, kind)) == said  # type: ignore[arg-type]
    again = renamed(written, {("message", "Hello"): "Hi"})
    assert {one.name for one in references(again) if one.kind == "message"} == {
        "Hi" if one.name == "Hello" else one.name for one in references(written) if one.kind == "message"
    }


def test_a_message_is_called_by_its_name_in_every_version_of_it() -> None:
    made = as_message("Course dates", REACH)  # type: ignore[arg-type]
    line = message_of(made)
    assert line is not None and line.title == "Course dates" and line.library == ""
    assert {one.name for one in line.versions().values()} == {"Course dates"}
    assert named(TEXT, "Other").title == "Other"  # type: ignore[arg-type]


@given(st.text("aAbB {}", max_size=12), st.sampled_from(["a", "B", "ab"]), st.text("xyz", max_size=3))
def test_replaced_words_keep_their_capitals_and_leave_merge_fields_alone(text: str, find: str, by: str) -> None:
    field = "{{ contact.ab }}"
    made = replaced(f"{text}{field}{text}", {find: by})
    assert field in made
    assert made == replaced(text, {find: by}) + field + replaced(text, {find: by}) or "{{" in text
    assert (
        find.lower() not in made.replace(field, "\n").lower()
        or "{{" in text
        or find.lower() in (by * 9).lower()
        or not by
    )
    assert replaced("Old, old", {"old": "new"}) == "New, new"
