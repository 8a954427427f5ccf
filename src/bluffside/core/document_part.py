"""What every model of a workflow document shares: strict, immutable, and exact about unknown keys;
how a field says that it is an editable part of a sentence; and how such sentences are filled in."""

import re
from typing import Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

# The sorts of value a part can hold. The web app has an editor for each.
Sort = Literal[
    "duration", "time", "date", "weekdays", "moment", "words", "tag", "tags", "line", "text", "message", "condition",
    "count", "money", "field", "list", "form", "channel", "channels", "pipeline", "stage", "stages", "appointment",
    "workflow", "workflows", "member", "assign", "service", "series", "address", "rule", "choice", "yes-no", "step",
    "happening",
]  # fmt: skip


def part(sort: Sort, label: str, empty: str = "…", **field: Any) -> Any:
    """A field that is an editable part of the sentence; `empty` stands there when it has no value."""
    return Field(json_schema_extra={"sort": sort, "label": label, "empty": empty}, **field)


class DocumentPart(BaseModel):
    """A part of a workflow document. Unknown keys are refused, so that a misspelt one is not silently lost."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class Spoken(DocumentPart):
    """A part that has a sentence of its own, in which {field} stands for an editable part."""

    sentence: ClassVar[str]

    def describe(self) -> str:
        """The sentence with its parts filled in."""
        return fill(self, self.sentence)


def fill(model: BaseModel, sentence: str) -> str:
    """The sentence with each {field} replaced by that field's value in words."""

    def filled(found: re.Match[str]) -> str:
        extra = type(model).model_fields[found[1]].json_schema_extra
        known = extra if isinstance(extra, dict) else {}
        said = words_for(getattr(model, found[1]))
        if known.get("sort") == "choice":
            said = said.replace("_", " ")
        return said or str(known.get("empty", "…"))

    return re.sub(r"\{(\w+)\}", filled, sentence)


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
