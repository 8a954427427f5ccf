"""What a carrier is to Bluffside: something that messages are handed to, and that says what it did with each."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal, Protocol

from django.conf import settings
from django.utils.module_loading import import_string

from bluffside.core.terms import CHANNELS, SEVERAL, Channel
from bluffside.core.workflow.house import Trouble
from bluffside.server.messaging.heads import Enclosed
from bluffside.server.practice import connections, installation
from bluffside.server.practice.models import Account


@dataclass(frozen=True, slots=True)
class Signing:
    """With which key an email is signed (DKIM, RFC 6376): its domain, its selector, and the key in PEM."""

    domain: str
    selector: str
    key: str = field(repr=False)


@dataclass(frozen=True, slots=True)
class Parcel:
    """A message as it is handed over. `sender` and `to` are numbers or addresses; `html`, `message_id` (RFC 5322), `calendar` (an entry, RFC
    6047), `to_name` and `files` only for email."""

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
    calendar: str = ""
    to_name: str = ""
    files: tuple[Enclosed, ...] = ()


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
SAID: dict[str, connections.Did] = {  # of the connection, by what a carrier did with a message
    "taken": "works",
    "refused": "works",
    "unavailable": "nothing",
    "unknown": "nothing",
    "away": "refuses",
}


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


def tell_of(account: Account, channel: Channel, answers: Sequence[Answer]) -> None:
    """What a carrier's answers say of the connection to it."""
    if not answers:
        return
    did = connections.best(SAID[one.did] for one in answers)
    shown = next(one for one in answers if SAID[one.did] == did)
    words = shown.reason or {"taken": "accepted", "refused": "refused one message"}.get(shown.did, "no answer")
    connections.heard(account, "channel", channel, did, words)


def out_of_order(account: Account) -> Mapping[tuple[str, str], Trouble]:
    """Connections that do not work (practice/connections.py), and channels that nothing carries."""
    nothing = {
        ("channel", channel): Trouble(
            f"{connections.label('channel', channel)}: nothing carries them here yet, so they wait.", stops=False
        )
        for channel in CHANNELS
        if isinstance(carrier_for(channel), NotConnected)
    }
    return nothing | dict(connections.out_of_order(account))
