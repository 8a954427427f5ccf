"""What every kind of step is.

A kind is one file in this folder with one subclass of `Step`. It declares
  - its fields, each with the *sort* of value it holds (`part(...)`), which the web app has an editor for;
  - `sentence`, in which {field} stands for an editable part;
  - `label`, `finds`: its name in the list of kinds and the words that find it;
  - `who` acts: the account, the responsible member, the contact, or nobody;
  - `begin`, and if it stays somewhere `wake`, `hear` and `notice`: what it does (see engine.moves);
  - `faults`: what its own fields make wrong or risky;
  - if it takes time, divides or ends, `when`, `covers_all`, `ends`, `may_leave_out`: when and where it leads;
  - `brings`: the events it causes, that other workflows may start on.
Nothing else has to know a new kind: the package collects the files it finds.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, ClassVar, Literal

from pydantic import Field

from bluffside.core.conditions import Need
from bluffside.core.document_part import DocumentPart, Sort, Spoken, part
from bluffside.core.engine.moves import ON, Move
from bluffside.core.engine.signals import Replied
from bluffside.core.engine.turn import Setting, Turn
from bluffside.core.events import Event

Who = Literal["account", "member", "contact", ""]
Waits = Literal["time", "answer", ""]
STEP_ID = r"^[a-z0-9][a-z0-9-]{0,39}$"


@dataclass(frozen=True, slots=True)
class Mend:
    """A change that would put something right, offered with a sentence ("Add a wait of 1 day before it").

    do      remove          the line `step`
            remove_lane     the lane `path` of the line `step`, with its lines
            insert_before   the line `step`, a new one: `value` is a step's data without an id
            set             the field `path` ("message.body") of the line `step` to `value`
            set_workflow    the field `path` of the workflow to `value`
    """

    sentence: str
    do: Literal["remove", "remove_lane", "insert_before", "set", "set_workflow"]
    path: str = ""
    value: Any = None


@dataclass(frozen=True, slots=True)
class Fault:
    """Something wrong ("error": cannot be published) or risky ("warning") about a step."""

    code: str
    severity: Literal["error", "warning"]
    sentence: str
    mend: Mend | None = None


@dataclass(frozen=True, slots=True)
class Span:
    """Between two instants, both reachable; equal when it is certain."""

    earliest: datetime
    latest: datetime

    def joined(self, other: "Span | None") -> "Span":
        if other is None:
            return self
        return Span(min(self.earliest, other.earliest), max(self.latest, other.latest))


@dataclass(frozen=True, slots=True)
class When:
    """Without running it: when a step acts, when the line below it is reached, when each of its lanes is entered,
    and when what follows is left out (`over`); None and missing lanes where nobody gets."""

    acts: Span | None
    past: Span | None
    lanes: Mapping[str, Span] = field(default_factory=dict)
    over: Span | None = None


class Lane(DocumentPart):
    """A way the page divides into. Its id is unique within the workflow and stays the same across versions."""

    sentence: ClassVar[str] = ""  # what its heading is edited in, where it has parts

    id: str = Field(pattern=STEP_ID)
    steps: "tuple[AnyStep, ...]" = ()  # type: ignore[name-defined]  # noqa: F821  # bound by the package

    def heading(self) -> str:
        raise NotImplementedError


class Step(Spoken):
    label: ClassVar[str]
    finds: ClassVar[tuple[str, ...]] = ()
    implied: ClassVar[Mapping[str, Mapping[str, Any]]] = {}  # values of fields that one of those words says besides
    who: ClassVar[Who] = ""
    speaks: ClassVar[str] = ""  # what it is counted as: "text", "email", "call"
    waits: ClassVar[Waits] = ""  # what it stays for, if staying is what it is for
    divides: ClassVar[bool] = False  # whether it may have lanes below it
    ends: ClassVar[bool] = False  # whether nobody goes on below it
    passes: ClassVar[bool] = False  # whether its one lane is gone through several times

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
        return ON

    def hear(self, turn: Turn, reply: Replied) -> Move:
        """A reply came while it stayed here, listening."""
        return ON

    def notice(self, turn: Turn, event: Event) -> Move | None:
        """Something happened while it stayed here; None when that is nothing to it."""
        return None

    def stands_for(self) -> Mapping[str, str]:
        """By field: words for parts that only the core can put into words, or what goes for a part left open."""
        return {}

    def lanes_below(self) -> Sequence[Lane]:
        return ()

    def connections(self) -> Iterator[tuple[str, str]]:
        """The connections of the account that it needs, by kind and name (`House.out_of_order`)."""
        yield from ()

    def faults(self) -> Iterator[Fault]:
        yield from ()

    def when(self, reached: Span, setting: Setting) -> When:
        """When it acts and where it leads, if it is reached within a span."""
        return When(reached, reached, {lane.id: reached for lane in self.lanes_below()})

    def covers_all(self) -> bool:
        """Whether some lane is taken whatever happens, so that nobody goes on below beside the lanes."""
        return False

    def dead_lanes(self) -> Mapping[str, str]:
        """Lanes that nobody can take, by id, each with why."""
        return {}

    def may_leave_out(self) -> bool:
        """Whether it may leave out the lines that follow (see moves.Over)."""
        return False

    def brings(self) -> Iterator[tuple[str, str]]:
        """The events it may cause: kind and subject."""
        yield from ()

    def hears(self) -> frozenset[str]:
        """The kinds of event that mean something to it while it stays."""
        return frozenset()

    def needs(self) -> frozenset[Need]:
        """The facts it decides on, beyond the contact's own fields and consent."""
        return frozenset()


class OneAct(Step):
    """A step that does one thing at once and goes on."""

    def begin(self, turn: Turn) -> Move:
        self.act(turn)
        return ON

    def act(self, turn: Turn) -> None:
        raise NotImplementedError


def needs(value: object, code: str, sentence: str) -> Iterator[Fault]:
    """An error when a part is left empty."""
    if not (value.strip() if isinstance(value, str) else value):
        yield Fault(code, "error", sentence)


__all__ = [
    "STEP_ID", "Fault", "Lane", "Mend", "OneAct", "Sort", "Span", "Step", "Waits", "When", "Who", "needs", "part",
]  # fmt: skip
