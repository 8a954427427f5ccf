"""What a workflow uses by name: tags, fields, forms, lists, workflows, services. Read off the sorts of its parts."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel

from bluffside.core.conditions import FieldTest, ListTest, TagTest
from bluffside.core.conditions.person import OWN_FIELDS
from bluffside.core.workflow.document import Workflow, walk

KINDS = {
    "tag": "tag",
    "tags": "tag",
    "field": "field",
    "form": "form",
    "list": "list",
    "workflow": "workflow",
    "workflows": "workflow",
    "service": "service",
    "pipeline": "pipeline",
    "appointment": "appointment",
    "member": "member",
}


@dataclass(frozen=True, slots=True)
class Reference:
    """`step` is empty for what the head of the workflow uses; `sets`: it makes it so rather than looks at it."""

    kind: str
    name: str
    step: str
    sets: bool = False


def references(workflow: Workflow) -> list[Reference]:
    """Everything the workflow names, in the order of the script, the head first."""
    found = [ref for head in (*workflow.starts, *workflow.leaves_on) for ref in _in_parts(head, "")]
    found += _in_conditions(workflow.entry, "")
    for step in walk(workflow.steps):
        sets = step.kind in ("tag", "set_field", "set_list")
        found += [Reference(ref.kind, ref.name, step.id, sets) for ref in _in_parts(step, step.id)]
        for lane in step.lanes_below():
            on = getattr(lane, "on", None)
            found += _in_parts(on, step.id) if on else []
            found += _in_conditions(lane, step.id, but="steps")
    return found


def _in_parts(model: BaseModel, step: str) -> list[Reference]:
    found = []
    for name, info in type(model).model_fields.items():
        extra = info.json_schema_extra
        kind = KINDS.get(str(extra.get("sort"))) if isinstance(extra, dict) else None
        value = getattr(model, name)
        if kind:
            names = value if isinstance(value, tuple) else (value,)
            found += [Reference(kind, one, step) for one in names if isinstance(one, str) and one]
    return found + _in_conditions(model, step, but="lanes")


def _in_conditions(value: Any, step: str, but: str = "") -> list[Reference]:
    return [
        Reference(kind, name, step)
        for test in _models(value, but)
        for kind, name in (
            ("tag", test.tag if isinstance(test, TagTest) else ""),
            ("list", test.list if isinstance(test, ListTest) else ""),
            ("field", test.field if isinstance(test, FieldTest) and test.field not in OWN_FIELDS else ""),
        )
        if name
    ]


def _models(value: Any, but: str) -> Iterator[BaseModel]:
    """The model itself and every model inside it."""
    if isinstance(value, BaseModel):
        yield value
        for name in type(value).model_fields:
            if name != but:
                yield from _models(getattr(value, name), but)
    elif isinstance(value, tuple):
        for one in value:
            yield from _models(one, but)
