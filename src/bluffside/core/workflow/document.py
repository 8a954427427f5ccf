"""The workflow document: who comes in, when messages may go out, what ends it, what it is for, the script, its scenarios.

Steps and lanes carry ids that are unique in the document and stay the same across versions; people
inside are found by them. A draft may be incomplete (an empty message, an unnamed tag): the checks say
so, and publishing refuses. It may not be malformed: unknown keys, kinds and doubled ids are errors.
"""

from collections.abc import Iterator, Sequence
from typing import Any, Literal, Self

from pydantic import ConfigDict, Field, field_validator, model_validator

from bluffside.core.conditions import Condition
from bluffside.core.document_part import DocumentPart
from bluffside.core.steps import AnyStep
from bluffside.core.steps.base import Step
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.hours import SendingHours
from bluffside.core.triggers import AnyTrigger, ByHand, Happening, Replied
from bluffside.core.workflow.aim import Aim
from bluffside.core.workflow.plain_data import sound
from bluffside.core.workflow.scenario import Scenario

FORMAT: Literal["bluffside-workflow/2"] = "bluffside-workflow/2"
MOST_STEPS = 500


class Entry(DocumentPart):
    """Who may come in (`who`), whether again: never, some time after leaving, or each time; and what is inside once at a
    time: a person, or a deal, so that somebody with two deals is in it twice. `hold_back`: one in so many of those who fit is left
    out on purpose, to compare (entering.is_held_back); 0: nobody."""

    each: Literal["person", "deal"] = "person"
    again: Literal["never", "after", "always"] = "never"
    after: Duration | None = None
    who: Condition | None = None
    hold_back: int = Field(default=0, ge=0, le=100)

    @field_validator("hold_back")
    @classmethod
    def _not_everybody(cls, one_in: int) -> int:
        if one_in == 1:
            raise ValueError("one in one is everybody; hold back one in two at the most")
        return one_in

    @model_validator(mode="after")
    def _after_says_how_long(self) -> Self:
        if (self.again == "after") != (self.after is not None):
            raise ValueError("say after how long people may come in again, and only then")
        return self

    def describe(self) -> str:
        who, nobody = ("Deals", "No deal") if self.each == "deal" else ("People", "Nobody")
        again = {
            "never": f"{nobody} comes in twice",
            "after": f"{who} may come in again {self.after} after they left",
            "always": f"{who} may come in again once they left",
        }[self.again]
        said = f"{again}; only who {self.who.describe()}" if self.who else again
        return (
            f"{said}; 1 in {self.hold_back} of those who fit is left out on purpose, to compare"
            if self.hold_back
            else said
        )


class Workflow(DocumentPart):
    model_config = ConfigDict(title="Bluffside workflow")

    format: Literal["bluffside-workflow/2"] = FORMAT
    name: str = Field(min_length=1, max_length=120)
    description: str = Field(default="", max_length=2_000)
    starts: tuple[AnyTrigger, ...] = (ByHand(),)
    entry: Entry = Entry()
    leaves_on: tuple[Happening, ...] = Field(default=(Replied(),), description="people leave when any of these happens")
    aim: Aim | None = Field(default=None, description="what it is for, and within how long")
    hours: SendingHours | None = Field(default=None, description="when messages may go out; at any hour when missing")
    steps: tuple[AnyStep, ...] = ()
    scenarios: tuple[Scenario, ...] = Field(default=(), max_length=200)

    @model_validator(mode="before")
    @classmethod
    def _is_sound(cls, data: Any) -> Any:
        sound(data)
        return data

    @property
    def leaves_on_replies(self) -> bool:
        """Whether any reply at all makes people leave."""
        return any(trigger == Replied() for trigger in self.leaves_on)

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Self:
        seen: set[str] = set()
        for number, part in enumerate(walk(self.steps), start=1):
            for id in (part.id, *(lane.id for lane in part.lanes_below())):
                if id in seen:
                    raise ValueError(f"the id “{id}” stands twice; steps and lanes each need their own")
                seen.add(id)
            if number > MOST_STEPS:
                raise ValueError(f"a workflow has at most {MOST_STEPS} lines")
        return self


def runs(steps: Sequence[Step]) -> Iterator[Sequence[Step]]:
    """Every run of steps: the script itself, and what stands in each lane."""
    yield steps
    for step in steps:
        for lane in step.lanes_below():
            yield from runs(lane.steps)


def walk(steps: Sequence[Step]) -> Iterator[Step]:
    """Every step in the order of the script, those in lanes after the step that divides."""
    for step in steps:
        yield step
        for lane in step.lanes_below():
            yield from walk(lane.steps)
