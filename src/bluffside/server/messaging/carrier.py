"""What a carrier is to Bluffside: something that messages are handed to, and that says what it did with each."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal, Protocol

from django.conf import settings
from django.utils.module_loading import import_string

from bluffside.core.terms import SEVERAL, Channel
from bluffside.server.practice import installation


@dataclass(frozen=True, slots=True)
class Signing:
    """With which key an email is signed (DKIM, RFC 6376): its domain, its selector, and the key in PEM."""

    domain: str
    selector: str
    key: str = field(repr=False)


@dataclass(frozen=True, slots=True)
class Parcel:
    """A message as it is handed over. `sender` and `to` are numbers or addresses; `html` and `message_id` (RFC 5322)
    only for email."""

    key: str
    channel: Channel
    sender: str
    sender_name: str
    to: str
    subject: str
    text: str
    html: str = ""
    message_id: str = ""
    headers: tuple[tuple[str, str], ...] = ()
    signing: "Signing | None" = None


@dataclass(frozen=True, slots=True)
class Answer:
    """What the carrier did with one parcel.

    taken        it will carry it
    refused      it never will; the reason says why
    unavailable  it did not take it this time
    away         it cannot be reached at all, or lets nobody in: nothing was handed over, and this message is not to blame
    unknown      nobody knows: the line broke while it was being handed over
    """

    did: Literal["taken", "refused", "unavailable", "away", "unknown"]
    reason: str = ""


TAKEN = Answer("taken")


class Carrier(Protocol):
    """`knows_keys`: a parcel with a key it has taken before changes nothing, so that one whose outcome is unknown may
    be handed over again. To a carrier that knows none, a message is handed once."""

    knows_keys: bool

    def hand_over(self, parcels: Sequence[Parcel]) -> list[Answer]:
        """An answer for each parcel, in their order. Does not raise for what befalls a parcel."""


class NotConnected:
    """Of a channel that nobody has connected: what goes by it waits, and the account sees why."""

    knows_keys = True

    def __init__(self, channel: Channel) -> None:
        self.channel = channel

    def hand_over(self, parcels: Sequence[Parcel]) -> list[Answer]:
        return [Answer("away", f"no connection is set for {SEVERAL[self.channel]}")] * len(parcels)


def carrier_for(channel: Channel) -> Carrier:
    """The carrier of a channel, as the installation is set."""
    named = settings.BLUFFSIDE_CARRIERS.get(channel)
    if not named and not installation.simulates(channel):
        return NotConnected(channel)
    return import_string(named or settings.BLUFFSIDE_CARRIERS[""])()
