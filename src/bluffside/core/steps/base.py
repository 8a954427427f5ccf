"""What every kind of step is.

A kind is one file in this folder with one subclass of `Step`. It declares
  - its fields, each with the *sort* of value it holds (`part(...)`), which the web app has an editor for;
  - `sentence`, in which {field} stands for an editable part;
  - `label`, `finds`: its name in the list of kinds and the words that find it;
  - `who` acts: the account, the responsible member, the contact, or nobody;
  - `begin`, and if it stays somewhere `wake` and `hear`: what it does (see engine.moves);
  - `faults`: what its own fields make wrong or risky;
  - if it takes time or divides, `acts_at`, `past`, `lane_spans`: when, without running it.
Nothing else has to know a new kind: the package collects the files it finds.
"""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, ClassVar, Literal

from pydantic import Field

from bluffside.core.document_part import DocumentPart
from bluffside.core.engine.moves import Move, On
from bluffside.core.engine.signals import Replied
from bluffside.core.engine.turn import Setting, Turn

Sort = Literal["duration", "time", "words", "tag", "line", "text", "message", "condition", "count"]
Who = Literal["account", "member", "contact", ""]
Waits = Literal["time", "answer", ""]
STEP_ID = r"^[a-z0-9][a-z0-9-]{0,39}$"


def part(sort: Sort, label: str, empty: str = "…", **field: Any) -> Any:
    """A field that is an editable part of the sentence; `empty` stands there when it has no value."""
    return Field(json_schema_extra={"sort": sort, "label": label, "empty": empty}, **field)


@dataclass(frozen=True, slots=True)
class Fault:
    """Something wrong ("error": cannot be published) or risky ("warning") about a step."""

    code: str
    severity: Literal["error", "warning"]
    sentence: str


@dataclass(frozen=True, slots=True)
class Span:
    """Between two instants, both reachable; equal when it is certain."""

    earliest: datetime
    latest: datetime

    def joined(self, other: "Span") -> "Span":
        return Span(min(self.earliest, other.earliest), max(self.latest, other.latest))


class Lane(DocumentPart):
    """A way the page divides into. Its id is unique within the workflow and stays the same across versions."""

    id: str = Field(pattern=STEP_ID)
    steps: "tuple[AnyStep, ...]" = ()  # type: ignore[name-defined]  # noqa: F821  # bound by the package

    def heading(self) -> str:
        raise NotImplementedError


class Step(DocumentPart):
    label: ClassVar[str]
    finds: ClassVar[tuple[str, ...]] = ()
    sentence: ClassVar[str]
    who: ClassVar[Who] = ""
    speaks: ClassVar[str] = ""  # what it is counted as: "text", "email", "call"
    waits: ClassVar[Waits] = ""  # what it stays for, if staying is what it is for
    divides: ClassVar[bool] = False  # whether it may have lanes below it

    kind: str
    id: str = Field(pattern=STEP_ID, description="stays the same across versions of the workflow")

    @classmethod
    def blank(cls) -> "Step":
        """A new step of this kind, as somebody begins to write it; its ids are to be replaced."""
        return cls(id="new")  # type: ignore[call-arg]  # each kind has a default for `kind`

    def begin(self, turn: Turn) -> Move:
        """The enrolment has come to this step."""
        raise NotImplementedError

    def wake(self, turn: Turn) -> Move:
        """The moment it stayed for has come."""
        return On()

    def hear(self, turn: Turn, reply: Replied) -> Move:
        """A reply came while it stayed here, listening."""
        return On()

    def lanes_below(self) -> Sequence[Lane]:
        return ()

    def faults(self) -> Iterator[Fault]:
        yield from ()

    def acts_at(self, at: datetime, setting: Setting) -> datetime:
        """When it acts, if it is reached at an instant."""
        return at

    def past(self, at: datetime, setting: Setting) -> datetime:
        """When the line below is reached, if this one is reached at an instant."""
        return self.acts_at(at, setting)

    def lane_spans(self, reached: Span, setting: Setting) -> Mapping[str, Span]:
        """When each of its lanes is entered, by lane id."""
        return {lane.id: reached for lane in self.lanes_below()}

    def covers_all(self) -> bool:
        """Whether some lane is taken whatever happens, so that nobody goes on below beside the lanes."""
        return False

    def describe(self) -> str:
        """The sentence with its parts filled in."""

        def filled(found: re.Match[str]) -> str:
            extra = type(self).model_fields[found[1]].json_schema_extra
            empty = extra.get("empty") if isinstance(extra, dict) else None
            return words_for(getattr(self, found[1])) or str(empty or "…")

        return re.sub(r"\{(\w+)\}", filled, self.sentence)


def words_for(value: Any) -> str:
    """A part of a sentence as words; empty when it has no value."""
    if value in (None, "", ()):
        return ""
    if hasattr(value, "describe"):
        return str(value.describe())
    if isinstance(value, tuple):
        return ", ".join(map(str, value))
    return f"{value:%H:%M}" if hasattr(value, "strftime") else str(value)


class OneAct(Step):
    """A step that does one thing at once and goes on."""

    def begin(self, turn: Turn) -> Move:
        self.act(turn)
        return On()

    def act(self, turn: Turn) -> None:
        raise NotImplementedError


def needs(value: str, code: str, sentence: str) -> Iterator[Fault]:
    """An error when a part is left empty."""
    if not value.strip():
        yield Fault(code, "error", sentence)
