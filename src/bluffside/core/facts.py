"""The facts a decision is taken on, as plain values.

The server loads them from PostgreSQL for a whole batch; a rehearsal makes them up. Nothing here can
be changed in place: an effect makes a new contact (see `engine.effects.apply`).
"""

from dataclasses import dataclass, field
from typing import Literal

Channel = Literal["email", "text"]
CHANNELS: tuple[Channel, ...] = ("email", "text")


@dataclass(frozen=True, slots=True)
class Contact:
    """One person in an account's list.

    `mobile` is E.164 ("+447700900123"); `zone` an IANA name, empty when the account's zone stands in;
    `opted_out` holds the channels on which this person asked not to hear from the account.
    """

    first_name: str = ""
    last_name: str = ""
    email: str = ""
    mobile: str = ""
    zone: str = ""
    tags: frozenset[str] = frozenset()
    opted_out: frozenset[Channel] = frozenset()

    @property
    def name(self) -> str:
        return f"{self.first_name} {self.last_name}".strip()

    def address(self, channel: Channel) -> str:
        """Where this channel reaches the contact; empty when it does not."""
        return self.mobile if channel == "text" else self.email


@dataclass(frozen=True, slots=True)
class Account:
    """The client business that speaks: its name, zone (IANA) and the details merged into messages."""

    name: str = ""
    zone: str = "UTC"
    phone: str = ""
    booking_link: str = ""
    signature: str = ""


@dataclass(frozen=True, slots=True)
class Member:
    """The responsible member of the client's team."""

    first_name: str = ""
    name: str = ""
    phone: str = ""


@dataclass(frozen=True, slots=True)
class Facts:
    contact: Contact = field(default_factory=Contact)
    account: Account = field(default_factory=Account)
    member: Member = field(default_factory=Member)

    @property
    def zone(self) -> str:
        """A local time belongs to the contact's zone, else the account's."""
        return self.contact.zone or self.account.zone
