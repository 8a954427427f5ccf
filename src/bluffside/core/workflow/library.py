"""Messages of an account's library: written once, said by lines of several workflows.

A message is a document of one line that speaks. A line that says it names it and keeps the words it had last, so that its file alone can
be rehearsed; what it says is what the library says now (`saying`).
"""

from collections.abc import Iterator, Mapping
from typing import Any

from pydantic import BaseModel

from bluffside.core.channel_kinds.wording import wordings_in
from bluffside.core.steps.speaking import Speaking
from bluffside.core.timing.hours import SendingHours
from bluffside.core.workflow.document import Workflow, walk

LINE = "message"  # the id of its one line

# What a line of a script decides for itself, whatever it says.
ITS_OWN = ("id", "sender", "held")


def message_of(document: Workflow) -> Speaking | None:
    """What the document says, where it is a message."""
    return next((step for step in document.steps if isinstance(step, Speaking)), None)


def as_message(name: str, line: Speaking) -> Workflow:
    """A document that says what a line says, under a name of its own. Its hours say nothing: those of the scripts that say it count."""
    said = named(line, name).model_copy(update={"id": LINE, "library": ""})
    return Workflow(name=name, leaves_on=(), hours=SendingHours(), steps=(said,))


def named(line: Speaking, name: str) -> Speaking:
    """The line with its message called so, in every version of it."""
    update: dict[str, Any] = {"name": name} if "name" in type(line).model_fields else {}
    for field, wording in wordings_in(line):
        update[field] = wording.model_copy(update={"name": name})
    return line.model_copy(update=update)


def said_by(document: Workflow) -> Iterator[tuple[str, str]]:
    """The messages of the library that are said, each with its line."""
    for step in walk(document.steps):
        if isinstance(step, Speaking) and step.library:
            yield step.library, step.id


def saying(document: Workflow, library: Mapping[str, Speaking]) -> Workflow:
    """The document with the words that its messages have in the library. One that is not there says what it said last."""
    if not any(name in library for name, _ in said_by(document)):
        return document
    return document.model_copy(update={"steps": _said(document.steps, library)})


def _said(value: Any, library: Mapping[str, Speaking]) -> Any:
    if isinstance(value, Speaking):
        if not (found := library.get(value.library)):
            return value
        own = {field: getattr(value, field) for field in ITS_OWN} | {"library": value.library}
        own["sender"] = value.sender or found.sender
        return named(found, value.library).model_copy(update=own)
    if isinstance(value, BaseModel):
        changed = {
            field: made
            for field in type(value).model_fields
            if (made := _said(now := getattr(value, field), library)) is not now
        }
        return value.model_copy(update=changed) if changed else value
    if isinstance(value, tuple):
        made = tuple(_said(one, library) for one in value)
        return made if any(new is not old for new, old in zip(made, value, strict=True)) else value
    return value
