"""Workflow documents as files: JSON and YAML, read and written; and the published JSON Schema."""

import json
from collections.abc import Iterator, Sequence
from typing import Any, Literal

import yaml
from pydantic import ValidationError

from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.plain_data import BadFile, Place, lines_of, named, read_data
from bluffside.core.workflow.upgrade import upgraded

Kind = Literal["json", "yaml"]


def read_workflow(text: str) -> Workflow:
    """A workflow from JSON or YAML (of which JSON is a part). Raises BadFile."""
    return parse_workflow(read_data(text), text)


def parse_workflow(data: Any, text: str = "") -> Workflow:
    """A workflow from plain data; faults name lines of the `text` that it was read from. Raises BadFile."""
    if not isinstance(data, dict):
        raise BadFile(["a workflow is a mapping with at least a name and steps"])
    try:
        return Workflow.model_validate(upgraded(data))
    except ValidationError as error:
        raise BadFile(faults_in_words(error, data, text)) from None


def faults_in_words(error: ValidationError, data: Any, text: str = "") -> list[str]:
    """Each fault with its place, "line 12, steps.2.message: …"; lines only when the `text` is known."""
    lines = lines_of(text) if text else {}
    faults = []
    for fault in error.errors(include_url=False, include_input=False):
        place = tuple(place_in_data(fault["loc"], data))
        faults.append(f"{on_line(place, lines)}{named(place)}{fault['msg'].removeprefix('Value error, ')}")
    return faults


def on_line(place: Place, lines: dict[Place, int]) -> str:
    """ "line 12, ": the line on which a part stands, or what it would be in."""
    for length in range(len(place), 0, -1):
        if line := lines.get(place[:length]):
            return f"line {line}, "
    return ""


def place_in_data(location: Sequence[str | int], data: Any) -> Iterator[str | int]:
    """A fault's place as the document has it, without the names of kinds that pydantic puts between."""
    for number, part in enumerate(location, start=1):
        inside = data if isinstance(data, dict) else dict(enumerate(data)) if isinstance(data, list) else {}
        if part in inside:
            data = inside[part]
        elif number < len(location) or not isinstance(data, dict):
            continue
        yield part


def place_of(id: str, data: Any, place: Place = ()) -> Place:
    """Where the step or lane of an id stands in a document's data; empty when it does not."""
    if isinstance(data, dict) and data.get("id") == id and place:
        return place
    inside = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    return next((found for key, one in inside if (found := place_of(id, one, (*place, key)))), ())


def to_data(workflow: Workflow) -> dict[str, Any]:
    """Plain data, with nothing left out that is not at its default."""
    return workflow.model_dump(mode="json")


def write_workflow(workflow: Workflow, kind: Kind) -> str:
    """The document as a file; reading it back gives an equal one."""
    data = to_data(workflow)
    if kind == "json":
        return json.dumps(data, indent=2, ensure_ascii=False) + "\n"
    return yaml.safe_dump(data, sort_keys=False, allow_unicode=True, width=100)


def json_schema() -> dict[str, Any]:
    return {"$schema": "https://json-schema.org/draft/2020-12/schema"} | Workflow.model_json_schema()
