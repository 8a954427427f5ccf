"""Workflow documents as files: JSON and YAML, read and written; and the published JSON Schema."""

import json
import re
from typing import Any, Literal

import yaml
from pydantic import ValidationError

from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.upgrade import upgraded

Kind = Literal["json", "yaml"]
LARGEST = 1_000_000  # characters


class BadFile(ValueError):
    """A file that is not a workflow; `faults` name each place and what is wrong there."""

    def __init__(self, faults: list[str]) -> None:
        super().__init__("; ".join(faults))
        self.faults = faults


class _Plain(yaml.SafeLoader):
    """YAML's safe subset, without aliases: a small file cannot unfold into a huge one."""

    def compose_node(self, parent: Any, index: Any) -> Any:
        if self.check_event(yaml.AliasEvent):
            raise yaml.YAMLError("aliases (*name) are not used in workflow files")
        return super().compose_node(parent, index)


# "09:30" is text, as in YAML 1.2, not a number in base sixty; and "on" and "no" are words.
_Plain.yaml_implicit_resolvers = {
    first: [(tag, rule) for tag, rule in rules if tag not in ("tag:yaml.org,2002:int", "tag:yaml.org,2002:bool")]
    for first, rules in yaml.SafeLoader.yaml_implicit_resolvers.items()
}
for _first in "tfTF":
    _Plain.add_implicit_resolver("tag:yaml.org,2002:bool", re.compile(r"^(true|false)$"), [_first])
_Plain.add_implicit_resolver("tag:yaml.org,2002:int", re.compile(r"^-?\d+$"), list("-0123456789"))


def read_workflow(text: str) -> Workflow:
    """A workflow from JSON or YAML (of which JSON is a part). Raises BadFile."""
    if len(text) > LARGEST:
        raise BadFile([f"the file is longer than {LARGEST:,} characters"])
    try:
        data = yaml.load(text, Loader=_Plain)  # noqa: S506  # a safe loader, see above
    except yaml.YAMLError as error:
        raise BadFile([f"not readable as YAML or JSON: {' '.join(str(error).split())}"]) from None
    except RecursionError:
        raise BadFile(["nested too deeply"]) from None
    except ValueError as error:  # what looks like a date and is none
        raise BadFile([f"not readable: {error}"]) from None
    return parse_workflow(data)


def parse_workflow(data: Any) -> Workflow:
    """A workflow from plain data. Raises BadFile."""
    if not isinstance(data, dict):
        raise BadFile(["a workflow is a mapping with at least a name and steps"])
    try:
        return Workflow.model_validate(upgraded(data))
    except ValidationError as error:
        raise BadFile(faults_in_words(error)) from None


def faults_in_words(error: ValidationError) -> list[str]:
    """Each fault with its place, "steps.2.text.message: …"."""
    faults = []
    for fault in error.errors(include_url=False, include_input=False):
        place = ".".join(str(part) for part in fault["loc"])
        faults.append(f"{place}: {fault['msg']}" if place else fault["msg"])
    return faults


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
