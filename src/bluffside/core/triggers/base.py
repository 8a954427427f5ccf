"""What every kind of trigger is: one file in this folder, one subclass of `Trigger`.

It declares its fields and its sentence like a step, the kinds of domain event it listens to, and whether
such an event fits. The same triggers say when a workflow starts, what a step waits for, and when people
leave: "when someone is tagged keen" reads and matches alike in all three places.
"""

from collections.abc import Mapping
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from bluffside.core.conditions import Case, Condition
from bluffside.core.document_part import Spoken, fill, part
from bluffside.core.events import Event

Names = Annotated[tuple[Annotated[str, Field(min_length=1, max_length=120)], ...], Field(max_length=50)]


class Trigger(Spoken):
    """`when` is a filter: the event starts nothing for whom it does not hold."""

    label: ClassVar[str]
    listens_to: ClassVar[tuple[str, ...]] = ()  # kinds of domain event; none when only people start it
    subject_field: ClassVar[str] = ""  # the field, or fields, that say what the event must be about
    must_be_named: ClassVar[bool] = False  # whether that may not be left open

    kind: str
    when: Condition | None = part("condition", "only some people", empty="everyone", clause="if {}", default=None)

    def subjects(self) -> tuple[str, ...]:
        """What the event must be about, one of these; "" is anything, none is nothing (it is not named yet).
        The server finds triggers by them."""
        named = getattr(self, self.subject_field) if self.subject_field else ""
        if named:
            return named if isinstance(named, tuple) else (str(named),)
        return () if self.must_be_named else ("",)

    def fits(self, event: Event) -> bool:
        """Whether an event is of the kind it listens to, and about the right thing; `when` is looked at apart."""
        subjects = self.subjects()
        return event.kind in self.listens_to and (subjects == ("",) or event.subject in subjects)

    def admits(self, event: Event, case: Case) -> bool:
        return self.fits(event) and (self.when is None or self.when.holds(case))

    def already(self) -> Condition | None:
        """Who matches it as things stand, as a condition: who has the tag, is on the list, stands in the stage. None
        where what happened leaves no such mark. They are counted when it is published, and enrolled only if asked."""
        return None

    def about(self, event: Event) -> Mapping[str, str]:
        """What an enrolment that it starts is about: the deal, the appointment, the form."""
        return {key: str(event.data[key]) for key in ("deal", "appointment", "form", "source") if key in event.data}

    def describe(self) -> str:
        """In words that follow "Starts", "Waits until" and "Leaves"."""
        return f"{self.said()}, if {self.when.describe()}" if self.when else self.said()

    def said(self) -> str:
        """The sentence without its condition; a kind whose parts may be left out says it shorter."""
        return fill(self, self.sentence)

    def fault(self) -> str:
        """What is missing, in words; empty when nothing is."""
        missing = self.when.missing() if self.when else ""
        return f"Its condition is not complete: {missing}." if missing else self.own_fault()

    def own_fault(self) -> str:
        if self.must_be_named and not self.subjects():
            return f"“{self.said()}”: no {self.subject_field.rstrip('s')} is named yet."
        return ""


class By(Spoken):
    """Who of the team must have done it: anyone, anyone but one, or one."""

    who: Literal["anyone", "anyone_but", "only"] = "anyone"
    member: str = ""

    sentence = "{who} {member}"

    def fits(self, event: Event) -> bool:
        if self.who == "anyone":
            return True
        return (event.by == self.member) == (self.who == "only")

    def describe(self) -> str:
        if self.who == "anyone":
            return "anyone"
        return f"anyone but {self.member or '…'}" if self.who == "anyone_but" else self.member or "…"
