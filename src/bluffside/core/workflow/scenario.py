"""Scenarios in the document: a rehearsal kept with its expectations, a workflow's own test.

    - name: Says yes after three hours
      contact: {first_name: Ada, mobile: "+447700900123"}
      start: 2026-03-02T09:00
      zone: Europe/London
      events:
      - {after: 3 hours, reply: "yes"}
      expect:                      # in this order
      - {tagged: wants a course}
      - {sent: See you on the water, by: text}
      - {gone: true, by_day: 1}
      - {not_sent: Three ways to start}

Here is how they are written; rehearsal.scenarios plays them.
"""

import re
from collections.abc import Mapping
from datetime import date, datetime
from decimal import Decimal
from types import MappingProxyType
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, BeforeValidator, Field, PlainSerializer, field_validator, model_validator

from bluffside.core.document_part import DocumentPart
from bluffside.core.facts import Appointment, Consent, Contact, Deal, FieldValue, withdrawn
from bluffside.core.scoring.sheet import Score
from bluffside.core.terms import PURPOSES, Channel, TwoWay
from bluffside.core.timing.clock_times import LocalMoment
from bluffside.core.timing.durations import parse_elapsed
from bluffside.core.timing.local import known_zone, to_instant

FIRST_START = datetime(2026, 3, 2, 9)  # noqa: DTZ001  # a local time
_DAY = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}")


Zone = Annotated[str, AfterValidator(known_zone)]  # an IANA name, or none


def field_value(written: object) -> object:
    """A field's value from how files write it: "1996-02-29" is a date, a number a number; lists are several choices."""
    if isinstance(written, int | float) and not isinstance(written, bool):
        return Decimal(str(written))
    if isinstance(written, str):
        try:
            return date.fromisoformat(written) if _DAY.fullmatch(written) else written
        except ValueError:
            return written
    return tuple(written) if isinstance(written, list) else written


def _written(value: FieldValue) -> object:
    """As files write it, so that it is read back as it was."""
    if isinstance(value, Decimal):
        return int(value) if value == int(value) else float(value)
    return value.isoformat() if isinstance(value, date) else value


SomeValue = Annotated[
    date | Decimal | bool | str | tuple[str, ...], BeforeValidator(field_value), PlainSerializer(_written)
]


class SomeDeal(DocumentPart):
    pipeline: str
    stage: str
    value: Decimal = Decimal(0)
    state: Literal["open", "won", "lost"] = "open"
    name: str = ""
    id: str = ""


class SomeAppointment(DocumentPart):
    """`start` is local time."""

    type: str
    start: LocalMoment
    id: str = ""


class SomeContact(DocumentPart):
    """A contact as scenarios and files describe one; what is left out is empty."""

    first_name: str = ""
    last_name: str = ""
    email: str = ""
    mobile: str = ""
    post: str = ""
    push: str = ""
    social: str = ""
    zone: Zone = ""
    id: str = "contact"
    owner: str = ""
    tags: tuple[str, ...] = ()
    lists: tuple[str, ...] = ()
    fields: Mapping[str, SomeValue] = {}
    opted_out: tuple[Channel, ...] = ()
    agreed: tuple[Channel, ...] = Field(default=(), description="channels agreed to, for every purpose")
    channel_order: tuple[Channel, ...] = ()
    do_not_contact: bool = False
    score: float = 0
    deals: tuple[SomeDeal, ...] = ()
    appointments: tuple[SomeAppointment, ...] = ()

    def facts(self, now: datetime, zone: str) -> Contact:
        """The contact at an instant; `zone` is the account's."""
        zone = self.zone or zone
        agreed = tuple(Consent(channel, purpose, "given", now) for channel in self.agreed for purpose in PURPOSES)
        fields: dict[str, FieldValue] = dict(self.fields)
        return Contact(
            first_name=self.first_name,
            last_name=self.last_name,
            email=self.email,
            mobile=self.mobile,
            post=self.post,
            push=self.push,
            social=self.social,
            zone=self.zone,
            id=self.id,
            owner=self.owner,
            tags=frozenset(self.tags),
            lists=frozenset(self.lists),
            fields=MappingProxyType(fields),
            consents=(*agreed, *withdrawn(*self.opted_out, at=now)),
            channel_order=self.channel_order,
            do_not_contact=self.do_not_contact,
            score=Score().plus("before", self.score, now) if self.score else Score(),
            added=now,
            deals=tuple(
                Deal(one.id or f"deal-{n}", one.pipeline, one.stage, now, now, one.value, one.state, one.name)
                for n, one in enumerate(self.deals, start=1)
            ),
            appointments=tuple(
                Appointment(one.id or f"appointment-{n}", one.type, to_instant(one.start, zone))
                for n, one in enumerate(self.appointments, start=1)
            ),
        )


ACTS = (
    "reply", "click", "form", "keyword", "lead", "tag", "untag", "list", "field", "stage", "won", "lost", "rests", "outcome",
    "book", "move", "cancel", "miss", "attend", "wait_for", "buys", "bounce", "opt_out", "read", "remove",
)  # fmt: skip


class Act(DocumentPart):
    """One thing that happens to the contact in a scenario, `after` so long from the start, or `at` a local time.

    reply (with `channel`, `message`), click (a message's name, with `url`), form, keyword, lead (from a source), tag,
    untag, list (is put on it), field (with `to`), stage, won, lost (the stage a deal comes to, with `pipeline`), rests (too long in a stage),
    outcome (of the task of the line `step`), book, move (a type of appointment, with its new `start`), cancel, miss,
    attend, wait_for (a place, on the waiting list of a type), buys (what, for `amount`), bounce (on a channel), opt_out (of a channel), read (somebody has read what they wrote by `channel`, and
    finds that they go "on" or want "out"), remove (why). `by` is the member who does it.
    """

    after: str = ""
    at: LocalMoment | None = None
    reply: str | None = None
    click: str | None = None
    form: str | None = None
    keyword: str | None = None
    lead: str | None = None
    tag: str | None = None
    untag: str | None = None
    list: str | None = None
    field: str | None = None
    stage: str | None = None
    won: str | None = None
    lost: str | None = None
    rests: str | None = None
    outcome: str | None = None
    book: str | None = None
    move: str | None = None
    cancel: str | None = None
    miss: str | None = None
    attend: str | None = None
    wait_for: str | None = None
    buys: str | None = None
    bounce: Channel | None = None
    opt_out: Channel | None = None
    read: Literal["on", "out"] | None = None
    remove: str | None = None
    channel: TwoWay = "text"
    message: str = ""
    url: str = ""
    amount: Decimal = Field(default=Decimal(0), ge=0, le=10**12)
    to: str = ""
    pipeline: str = ""
    step: str = ""
    by: str = ""
    start: LocalMoment | None = None

    @field_validator("after")
    @classmethod
    def _is_a_length_of_time(cls, after: str) -> str:
        if after:
            parse_elapsed(after)
        return after

    @model_validator(mode="after")
    def _one_thing_at_one_time(self) -> Self:
        if bool(self.after) == (self.at is not None):
            raise ValueError("say “at” (a local time) or “after” (like “3 hours”), one of them")
        if sum(getattr(self, act) is not None for act in ACTS) != 1:
            raise ValueError(f"say one thing that happens: {', '.join(ACTS)}")
        if (self.book is not None or self.move is not None) and self.start is None:
            raise ValueError("say when the appointment starts")
        return self

    @property
    def what(self) -> str:
        """Which of ACTS it is."""
        return next(act for act in ACTS if getattr(self, act) is not None)


EXPECTED = (
    "sent", "not_sent", "tagged", "untagged", "task", "note", "field", "stage", "handed_over", "does", "aim", "gone", "inside",
)  # fmt: skip
# What else can be expected to be done, by what it is called in a rehearsal's report (see rehearsal.report).
Does = Literal[
    "notify", "list", "points", "owner", "consent", "channel_order", "appointment", "webhook", "outside_series",
    "book", "fetch_person", "ask_service", "stop_others",
]  # fmt: skip


class Expect(DocumentPart):
    """One expectation. Those on what is done come true in the order they are written; the times are counted from
    joining (day 0).

    sent (a message's name, `by` a channel), not_sent, tagged, untagged, task (its title or kind), note, field
    (with `to`), stage, handed_over (to a workflow), does (anything else, by what it is called), aim (reached, or not), gone, inside.
    """

    sent: str | None = None
    not_sent: str | None = None
    tagged: str | None = None
    untagged: str | None = None
    task: str | None = None
    note: str | None = None
    field: str | None = None
    stage: str | None = None
    handed_over: str | None = None
    does: Does | None = None
    aim: bool | None = None
    gone: bool | None = None
    inside: bool | None = None
    by: Channel | None = None
    to: str = ""
    by_day: int | None = Field(default=None, ge=0)
    on_day: int | None = Field(default=None, ge=0)
    at: str = Field(default="", pattern=r"^(\d\d:\d\d)?$")

    @model_validator(mode="after")
    def _one_thing(self) -> Self:
        if sum(getattr(self, what) is not None for what in EXPECTED) != 1:
            raise ValueError(f"expect one thing: {', '.join(EXPECTED)}")
        if self.gone is False or self.inside is False:
            raise ValueError("write “gone: true” or “inside: true”")
        return self

    @property
    def what(self) -> str:
        """Which of EXPECTED it is."""
        return next(what for what in EXPECTED if getattr(self, what) is not None)

    def describe(self) -> str:
        value = getattr(self, self.what)
        said = {
            "sent": f"“{value}” goes out" if value else "a message goes out",
            "not_sent": f"“{value}” never goes out" if value else "no message goes out",
            "tagged": f"tagged “{value}”",
            "untagged": f"the tag “{value}” is taken off",
            "task": f"a task “{value}” is made",
            "note": f"a note “{value}” is written",
            "field": f"{value} is set to “{self.to}”",
            "stage": f"the deal comes to “{value}”",
            "handed_over": f"handed over to “{value}”",
            "does": str(value).replace("_", " "),
            "aim": "the aim is reached" if value else "the aim is not reached",
            "gone": "gone",
            "inside": "still inside",
        }[self.what]
        if self.by:
            said += f" by {self.by}"
        if self.on_day is not None:
            said += f" on day {self.on_day}"
        if self.by_day is not None:
            said += f" by day {self.by_day}"
        return f"{said} at {self.at}" if self.at else said


class Scenario(DocumentPart):
    """`start` is the local moment of joining."""

    name: str = Field(min_length=1, max_length=200)
    contact: SomeContact = SomeContact(first_name="Robin", email="robin@example.com", mobile="+447700900001")
    start: LocalMoment = FIRST_START
    zone: Zone = Field(default="Europe/London", min_length=1)
    about: Mapping[str, str] = Field(default={}, description="ids of what it is about: an appointment, a deal")
    events: tuple[Act, ...] = Field(default=(), max_length=200)
    expect: tuple[Expect, ...] = Field(default=(), max_length=200)
