"""What a workflow uses by name: tags, fields, forms, lists, workflows, services, members. Read off the sorts of its
parts, so that a new kind of step is known here by itself; and the same names put in place of others."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from pydantic import BaseModel

from bluffside.core.conditions import FieldTest
from bluffside.core.conditions.person import OWN_FIELDS
from bluffside.core.document_part import declared
from bluffside.core.messages.merge import (
    OF_TYPES,
    OWN_DETAIL,
    OWN_FIELD,
    booking_path,
    is_known,
    own_path,
    times_path,
    uses,
)
from bluffside.core.steps.base import Step
from bluffside.core.steps.for_member import Assign
from bluffside.core.workflow.document import Workflow, walk

KINDS = {
    "tag": "tag",
    "tags": "tag",
    "field": "field",
    "form": "form",
    "source": "source",
    "list": "list",
    "workflow": "workflow",
    "workflows": "workflow",
    "service": "service",
    "pipeline": "pipeline",
    "pipelines": "pipeline",
    "stage": "stage",
    "stages": "stage",
    "appointment": "appointment",
    "appointments": "appointment",
    "member": "member",
    "sender": "sender",
    "score": "score",
    "library": "message",
}
Model = TypeVar("Model", bound=BaseModel)


@dataclass(frozen=True, slots=True)
class Reference:
    """`step` is empty for what the head of the workflow uses; `sets`: it makes it so rather than looks at it."""

    kind: str
    name: str
    step: str
    sets: bool = False


def references(workflow: Workflow) -> list[Reference]:
    """Everything the workflow names, in the order of the script, the head first."""
    head = (*workflow.starts, *workflow.leaves_on, workflow.entry, workflow.aim)
    found = [Reference(kind, name, "") for part in head for kind, name in _named(part)]
    return found + in_steps(workflow.steps)


def in_steps(steps: Sequence[Step]) -> list[Reference]:
    """What these lines name, and those below them."""
    found = []
    for step in walk(steps):
        sets = step.kind in ("tag", "set_field", "set_list")
        found += [Reference(kind, name, step.id, sets) for kind, name in _named(step, but="lanes")]
        for lane in step.lanes_below():
            found += [Reference(kind, name, step.id) for kind, name in _named(lane, but="steps")]
    return found


def named(model: BaseModel) -> list[tuple[str, str]]:
    """Kind and name of all that a condition, say, names."""
    return list(_named(model))


def fields_in(model: BaseModel) -> set[str]:
    """The fields of a contact that it goes by, the contact's own included."""
    return {
        name
        for one in _models(model, "")
        for part in type(one).model_fields
        if declared(type(one), part).get("sort") == "field"
        for name in (getattr(one, part),)
        if isinstance(name, str) and name
    }


def _named(value: Any, but: str = "") -> Iterator[tuple[str, str]]:
    """Kind and name of all that a model and those inside it name. A field in a message is known by how a template says
    it: "Date_of_birth" may be "Date of birth"; see `merge.own_path`."""
    for model in _models(value, but):
        for text in (held for name in type(model).model_fields if isinstance(held := getattr(model, name), str)):
            for use in uses(text) if "{{" in text else ():
                if use.path.startswith(OWN_FIELD):
                    yield "field", is_known(use.path)
                elif use.path.startswith(OWN_DETAIL):
                    yield "detail", is_known(use.path)
                elif use.path.startswith(OF_TYPES):
                    yield "booking page", use.path.split(".", 2)[2].replace("_", " ")
        if isinstance(model, Assign):
            yield from (("member", name) for name in model.members)
        for field, kind in _naming(model):
            held = getattr(model, field)
            for name in held if isinstance(held, tuple) else (held,):
                if isinstance(name, str) and name:
                    yield kind, name


def _naming(model: BaseModel) -> Iterator[tuple[str, str]]:
    """The fields of a model that hold names of the account, with what they name."""
    for field in type(model).model_fields:
        said = declared(type(model), field)
        kind = KINDS.get(said.get("sort", "")) or said.get("of") or _named_by(model, said.get("names", {}))
        own = isinstance(model, FieldTest) and model.field in OWN_FIELDS
        if kind and not own:
            yield field, kind


def _named_by(model: BaseModel, names: Mapping[str, Mapping[str, str]]) -> str:
    """Of what a name is, where another field decides; empty where no such thing is looked after by its name."""
    found = (sorts.get(getattr(model, field), "") for field, sorts in names.items())
    return next((kind for kind in found if kind in KINDS.values()), "")


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


# ---- other names in their place


def renamed(model: Model, names: Mapping[tuple[str, str], str]) -> Model:
    """The same with names, by kind and name, replaced wherever they stand, in lanes, conditions and triggers, too."""
    update: dict[str, Any] = {field: _renamed(getattr(model, field), names) for field in type(model).model_fields}
    for field, kind in _naming(model):
        held = getattr(model, field)
        if isinstance(held, tuple):
            update[field] = tuple(names.get((kind, name), name) for name in held)
        elif isinstance(held, str):
            update[field] = names.get((kind, held), held)
    if isinstance(model, Assign):
        update["members"] = tuple(names.get(("member", name), name) for name in model.members)
    changed = {field: value for field, value in update.items() if value is not getattr(model, field)}
    return model.model_copy(update=changed) if changed else model


def _renamed(value: Any, names: Mapping[tuple[str, str], str]) -> Any:
    if isinstance(value, BaseModel):
        return renamed(value, names)
    if isinstance(value, tuple):
        return tuple(_renamed(one, names) for one in value)
    return _merged(value, names) if isinstance(value, str) and "{{" in value else value


def _merged(text: str, names: Mapping[tuple[str, str], str]) -> str:
    """A message with other merge fields in the place of those of fields, or booking pages, that are called otherwise now."""
    said: Mapping[str, tuple[Callable[[str], str], ...]] = {
        "field": (own_path,),
        "appointment": (booking_path, times_path),
    }
    paths = {path(old): path(new) for (kind, old), new in names.items() for path in said.get(kind, ())}
    for use in uses(text):
        if use.path in paths:
            text = text.replace(use.source, use.source.replace(use.path, paths[use.path]))
    return text
