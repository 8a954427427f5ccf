"""The facts a decision is taken on, as plain values.

The server loads them from PostgreSQL for a whole batch; a rehearsal makes them up. Nothing here can
be changed in place: an effect makes new facts (see `Effect.changes` in engine.effects).
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal
from types import MappingProxyType
from typing import Any, Literal, Self

from bluffside.core.appointments.free import Free
from bluffside.core.appointments.usual_times import usual_times
from bluffside.core.assistant.script import AssistantScript
from bluffside.core.care.house import Care
from bluffside.core.events import Event
from bluffside.core.scoring.sheet import Score
from bluffside.core.terms import ADDRESS_OF, CHANNELS, PURPOSES, TWO_WAY, Channel, Purpose, TwoWay

FieldValue = str | Decimal | date | bool | tuple[str, ...] | None
"""The typed kinds of field: text, choice, phone and link; number and money; date; yes or no; several choices."""


@dataclass(frozen=True, slots=True)
class Consent:
    """What a contact said about being written to on a channel for a purpose.

    `how` it was said ("form", "by text", "import"), `wording` what was asked, `evidence` what proves it:
    whoever relies on consent must be able to show it (GDPR art. 7(1)).
    """

    channel: Channel
    purpose: Purpose
    state: Literal["given", "withdrawn", "asked"]
    at: datetime | None = None
    how: str = ""
    wording: str = ""
    evidence: str = ""


@dataclass(frozen=True, slots=True)
class Deal:
    """A deal on a pipeline. `value` is in the account's currency; `since` when it came to its stage."""

    id: str
    pipeline: str
    stage: str
    created: datetime
    since: datetime
    value: Decimal = Decimal(0)
    state: Literal["open", "won", "lost"] = "open"
    name: str = ""
    owner: str = ""


@dataclass(frozen=True, slots=True)
class Appointment:
    """An appointment; `start` and `end` are instants, `link` the address of its own page."""

    id: str
    type: str
    start: datetime
    end: datetime | None = None
    state: Literal["booked", "confirmed", "cancelled", "missed", "attended"] = "booked"
    place: str = ""
    member: str = ""
    link: str = ""

    @property
    def to_come(self) -> bool:
        """Whether it still stands, so that it can be reminded of."""
        return self.state in ("booked", "confirmed")


@dataclass(frozen=True, slots=True)
class Contact:
    """One person in an account's list.

    id             unique in the account; decides splits and pauses, so that they stay the same
    mobile         E.164 ("+447700900123")
    zone           an IANA name, empty when the account's zone stands in
    fields         the account's own typed fields, by name
    channel_order  the channels the contact would rather hear on, the dearest first; empty when not asked
    consents       what was said, at most one for a channel and purpose
    do_not_contact nothing goes out on any channel
    paused_until   until then the contact asked for quiet: marketing waits
    held           channels on which what they wrote may mean that they want no more, and nobody has looked yet
    exhausted      channels whose address bounced or is not in service
    preferences_link   the address of the contact's own page, where there is one
    happened       past events, oldest first, as far as the definition's conditions and the limits need them
    """

    first_name: str = ""
    last_name: str = ""
    email: str = ""
    mobile: str = ""
    zone: str = ""
    tags: frozenset[str] = frozenset()
    consents: tuple[Consent, ...] = ()
    id: str = ""
    post: str = ""
    push: str = ""
    social: str = ""
    added: datetime | None = None
    owner: str = ""
    fields: Mapping[str, FieldValue] = field(default_factory=lambda: MappingProxyType({}))
    lists: frozenset[str] = frozenset()
    channel_order: tuple[Channel, ...] = ()
    do_not_contact: bool = False
    paused_until: datetime | None = None
    held: frozenset[Channel] = frozenset()
    exhausted: frozenset[Channel] = frozenset()
    score: Score = Score()
    deals: tuple[Deal, ...] = ()
    appointments: tuple[Appointment, ...] = ()
    preferences_link: str = ""
    happened: tuple[Event, ...] = ()

    @property
    def name(self) -> str:
        return f"{self.first_name} {self.last_name}".strip()

    @property
    def opted_out(self) -> frozenset[Channel]:
        """The channels on which this person asked not to hear from the account for any purpose."""
        no = {(one.channel, one.purpose) for one in self.consents if one.state == "withdrawn"}
        return frozenset(channel for channel in CHANNELS if all((channel, purpose) in no for purpose in PURPOSES))

    def consent(self, channel: Channel, purpose: Purpose) -> Consent | None:
        for one in self.consents:
            if one.channel == channel and one.purpose == purpose:
                return one
        return None

    def consents_after(self, *said: Consent) -> tuple[Consent, ...]:
        """What the contact has said once it has said this, too: in place of what it said of the same before."""
        new = {(one.channel, one.purpose) for one in said}
        return (*(one for one in self.consents if (one.channel, one.purpose) not in new), *said)

    def address(self, channel: Channel) -> str:
        """Where this channel reaches the contact; empty when it does not."""
        return str(getattr(self, ADDRESS_OF[channel]))

    def changed(self, **fields: Any) -> Self:
        """The contact with some fields changed. (`dataclasses.replace` does the same, and at every effect it would be
        the slowest thing that the engine does.)"""
        new = object.__new__(type(self))
        for name in self.__slots__:
            object.__setattr__(new, name, fields[name] if name in fields else getattr(self, name))
        return new

    def appointment(self, id: str) -> Appointment | None:
        return next((one for one in self.appointments if one.id == id), None)

    def deal(self, id: str) -> Deal | None:
        return next((one for one in self.deals if one.id == id), None)


def withdrawn(*channels: Channel, at: datetime | None = None, evidence: str = "") -> tuple[Consent, ...]:
    """Consent withdrawn on these channels for every purpose, as an opt-out word does."""
    return tuple(
        Consent(channel, purpose, "withdrawn", at, evidence=evidence) for channel in channels for purpose in PURPOSES
    )


def nothing_free(kind: str) -> Sequence[tuple[datetime, str]]:
    return ()


@dataclass(frozen=True, slots=True)
class Account:
    """The client business that speaks: its name, zone (IANA), the details merged into messages (`details`: of its own
    choosing, by name), the pages it is booked on by type of appointment, its care; `language` (BCP 47) is how it writes dates and
    times to people; `stopped`: why nothing of it goes out to the contact, in words; empty when it does. `free_next`: of a type of
    appointment, the next free beginnings with the address at which each is booked; asked only where a message names them.
    `assistant`: what the booking assistant says; `free`: what can be booked of a type as of an instant, None where no diary is known."""

    name: str = ""
    zone: str = "UTC"
    phone: str = ""
    booking_link: str = ""
    signature: str = ""
    care: Care = Care()
    stopped: str = ""
    web_page: str = ""
    postal_address: str = ""
    language: str = "en-GB"
    details: Mapping[str, str] = field(default_factory=lambda: MappingProxyType({}))
    booking_pages: Mapping[str, str] = field(default_factory=lambda: MappingProxyType({}))
    free_next: Callable[[str], Sequence[tuple[datetime, str]]] = field(default=nothing_free, compare=False, repr=False)
    assistant: AssistantScript = AssistantScript()
    free: Callable[[str, datetime], Sequence[Free]] | None = field(default=None, compare=False, repr=False)

    def free_times(self, kind: str, now: datetime) -> Sequence[Free]:
        """What can be booked of a type, the soonest first."""
        return self.free(kind, now) if self.free else usual_times(self.care, self.zone, now)


@dataclass(frozen=True, slots=True)
class Member:
    """The responsible member of the client's team."""

    first_name: str = ""
    name: str = ""
    phone: str = ""
    signature: str = ""


@dataclass(frozen=True, slots=True)
class Facts:
    """`remembers`: whether messages that are sent are added to what happened, which some conditions and limits need."""

    contact: Contact = field(default_factory=Contact)
    account: Account = field(default_factory=Account)
    member: Member = field(default_factory=Member)
    remembers: bool = True

    def with_contact(self, **fields: Any) -> "Facts":
        """These facts with some of the contact's fields changed."""
        return Facts(self.contact.changed(**fields), self.account, self.member, self.remembers)

    def with_owner(self, name: str) -> "Facts":
        """These facts with somebody responsible for the contact, who speaks for the team from then on."""
        member = self.member if self.member.name == name else Member(name.split(" ")[0], name)
        return Facts(self.contact.changed(owner=name), self.account, member, self.remembers)

    @property
    def zone(self) -> str:
        """A local time belongs to the contact's zone, else the account's."""
        return self.contact.zone or self.account.zone


__all__ = [
    "CHANNELS",
    "PURPOSES",
    "TWO_WAY",
    "Account",
    "Appointment",
    "Channel",
    "Consent",
    "Contact",
    "Deal",
    "Facts",
    "FieldValue",
    "Member",
    "Purpose",
    "TwoWay",
    "withdrawn",
]
