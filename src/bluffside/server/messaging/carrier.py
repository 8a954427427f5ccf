"""What a carrier is to Bluffside: something that takes a message once for a key."""

from dataclasses import dataclass
from typing import Protocol

from django.conf import settings
from django.utils.module_loading import import_string

from bluffside.core.facts import TwoWay


@dataclass(frozen=True, slots=True)
class Parcel:
    """A message as it is handed over. `sender` and `to` are numbers or addresses; `html` only for email."""

    key: str
    channel: TwoWay
    sender: str
    sender_name: str
    to: str
    subject: str
    text: str
    html: str
    headers: tuple[tuple[str, str], ...] = ()


class Refused(Exception):
    """The carrier will never take this message; the text says why."""


class Unavailable(Exception):
    """The carrier did not take it this time."""


class Carrier(Protocol):
    def hand_over(self, parcel: Parcel) -> None:
        """Takes the parcel. A key it has taken before changes nothing. Raises Refused or Unavailable."""


def carrier() -> Carrier:
    return import_string(settings.BLUFFSIDE_CARRIER)()  # type: ignore[no-any-return]
