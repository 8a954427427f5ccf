"""What every model of a workflow document shares: strict, immutable, and exact about unknown keys;
how a field says that it is an editable part of a sentence; and how such sentences are filled in."""

import re
from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

# The sorts of value a part can hold. The web app has an editor for each.
Sort = Literal[
    "duration", "time", "date", "weekdays", "moment", "words", "tag", "tags", "line", "text", "message", "condition",
    "count", "money", "field", "list", "form", "source", "channel", "channels", "pipeline", "pipelines", "stage", "stages",
    "appointment", "appointments", "workflow", "workflows", "member", "by", "assign", "sender", "service", "series",
    "address", "pairs", "rule", "choice", "choices", "yes-no", "step", "happening", "event", "worth", "length", "deeds",
    "score", "rich", "things", "library", "picture", "html", "files",
]  # fmt: skip


def part(
    sort: Sort,
    label: str,
    empty: str = "…",
    clause: str = "",
    words: Mapping[Any, str] = MappingProxyType({}),
    only: Mapping[str, Sequence[str]] = MappingProxyType({}),
    names: Mapping[str, Mapping[str, str]] = MappingProxyType({}),
    of: str = "",
    **field: Any,
) -> Any:
    """A field that is an editable part of the sentence; `empty` stands there when it has no value.

    clause   what is added to the sentence when the value is not the usual one, {} standing for it
    words    what values are called, by value, where that is not the value itself
    only     the part is there only while other fields have one of some values each; "*x" is any that ends in x
    names    of what sort the name is that it holds, by the values of another field
    of       what it is the name of, where its sort does not say so
    """
    extra: dict[str, Any] = {"sort": sort, "label": label, "empty": empty}
    if clause:
        extra["clause"] = clause
    if words:
        extra["words"] = {_key(value): said for value, said in words.items()}
    if only:
        extra["only"] = {name: list(values) for name, values in only.items()}
    if names:
        extra["names"] = {name: dict(sorts) for name, sorts in names.items()}
    if of:
        extra["of"] = of
    return Field(json_schema_extra=extra, **field)


def declared(model: type[BaseModel], field: str) -> dict[str, Any]:
    """What `part` said of a field; empty for a field that is no part."""
    extra = model.model_fields[field].json_schema_extra
    return extra if isinstance(extra, dict) else {}


def _key(value: Any) -> str:
    """A value as the key of its words: as JSON writes it."""
    return {True: "true", False: "false", None: ""}.get(value, str(value)) if not isinstance(value, str) else value


class DocumentPart(BaseModel):
    """A part of a workflow document. Unknown keys are refused, so that a misspelt one is not silently lost."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class Spoken(DocumentPart):
    """A part that has a sentence of its own, in which {field} stands for an editable part."""

    sentence: ClassVar[str]

    def describe(self) -> str:
        """The sentence with its parts filled in, and the clauses of what is not as usual."""
        said, more = fill(self, self.sentence), self.clauses()
        if not more:
            return said
        body = said.removesuffix(".")
        return f"{body}, {', '.join(more)}{said[len(body) :]}"

    def clauses(self) -> list[str]:
        """What is added to the sentence, in the order of the fields."""
        found = []
        for name, info in type(self).model_fields.items():
            clause = declared(type(self), name).get("clause")
            if clause and getattr(self, name) != info.get_default():
                found.append(clause.replace("{}", said_of(self, name)))
        return found


def fill(model: BaseModel, sentence: str) -> str:
    """The sentence with each {field} replaced by that field's value in words."""
    return re.sub(r"\{(\w+)\}", lambda found: said_of(model, found[1]), sentence)


def said_of(model: BaseModel, field: str) -> str:
    """A field's value in words: those it is called by, else its own, else what stands for no value."""
    known, value = declared(type(model), field), getattr(model, field)
    if (name := known.get("words", {}).get(_key(value))) is not None:
        return str(name)
    said = ", ".join(map(words_for, value)) if known.get("sort") == "files" else words_for(value)
    if known.get("sort") == "choice":
        said = said.replace("_", " ")
    return said or str(known.get("empty", "…"))


def _in_brackets(found: re.Match[str]) -> str:
    """A merge field in a sentence: "[first name]"."""
    return f"[{found[1].rsplit('.', 1)[-1].replace('_', ' ')}]"


def words_for(value: Any) -> str:
    """A part of a sentence as words; empty when it has no value."""
    if value in (None, "", ()):
        return ""
    if hasattr(value, "describe"):
        return str(value.describe())
    if isinstance(value, tuple):
        return " or ".join(map(words_for, value))
    if isinstance(value, float):
        return f"{value:g}"
    if hasattr(value, "hour"):
        return f"{value:%H:%M}"
    if hasattr(value, "month"):
        return f"{value.day} {value:%B %Y}"
    return re.sub(r"\{\{\s*([\w.]+)[^{}]*\}\}", _in_brackets, str(value))
