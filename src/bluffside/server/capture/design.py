"""A form as it is designed: a document with its questions, the consent it asks for, and what is done with who sends it.

A question fills a field of the contact's own (first_name, email …), one of the account's ("field:<name>"), or nothing:
then its answer stands on the timeline alone. Its kind follows from what it fills.
"""

from typing import TYPE_CHECKING, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from bluffside.core.own_fields import OWN
from bluffside.core.terms import Channel, Purpose
from bluffside.server.capture.deals_made import MakesDeal
from bluffside.server.people.field_kinds import FIELD_KINDS, FieldKind

# What answers are typed as: the kinds of fields, and two that are kept as text.
if TYPE_CHECKING:
    Kind = str
else:
    Kind = Literal[("long", "email", *FIELD_KINDS)]
FILLS = {"full_name": "text"} | {name: one.asked for name, one in OWN.items() if one.asked}


class Part(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Question(Part):
    """`fills`: what the answer becomes; empty: only an answer."""

    id: str = Field(pattern=r"^[a-z0-9]{1,12}$")
    label: str = Field(min_length=1, max_length=200)
    help: str = Field(default="", max_length=300)
    fills: str = Field(default="", max_length=100)
    kind: Kind = "text"
    required: bool = False
    choices: list[str] = Field(default=[], max_length=40)

    @property
    def of(self) -> FieldKind:
        """The kind of field its answer is read as."""
        return FIELD_KINDS.get(self.kind, FIELD_KINDS["text"])


class Asked(Part):
    """Consent that is asked for by a box to tick, never ticked beforehand. The words are kept with each yes."""

    channel: Channel
    purposes: list[Purpose] = ["marketing"]
    words: str = Field(min_length=1, max_length=500)


class FormDesign(Part):
    title: str = Field(default="", max_length=200)
    intro: str = Field(default="", max_length=2_000)
    questions: list[Question] = Field(default=[], max_length=40)
    consent: list[Asked] = Field(default=[], max_length=6)
    button: str = Field(default="Send", min_length=1, max_length=40)
    thanks: str = Field(default="Thank you. We have got it.", max_length=1_000)
    tags: list[str] = Field(default=[], max_length=10)
    lists: list[str] = Field(default=[], max_length=10)
    deal: MakesDeal | None = None
    hidden: list[str] = Field(default=["source", "campaign"], max_length=12)
    one_device: bool = False  # filled in by many on one device, at an open day: quick, and from one place

    @model_validator(mode="after")
    def _questions_differ(self) -> Self:
        ids = [one.id for one in self.questions]
        if len(set(ids)) < len(ids):
            raise ValueError("two questions have the same id")
        filled = [one.fills for one in self.questions if one.fills]
        if len(set(filled)) < len(filled):
            raise ValueError("two questions fill the same field")
        return self

    def problem(self, for_team: bool) -> str:
        """Why it cannot be filled in yet, in words; empty when it can."""
        if not self.questions:
            return "It has no question yet."
        if not for_team and not {"email", "mobile"} & {one.fills for one in self.questions}:
            return "It asks neither for an email nor for a mobile number, so nobody could be told from another."
        empty = next((one for one in self.questions if one.of.wants_choices() and not one.choices), None)
        return f"“{empty.label}” has no choices yet." if empty else ""
