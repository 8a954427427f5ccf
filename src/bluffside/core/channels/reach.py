"""Reach: one message, by the first channel that the contact prefers, allows and can be reached on.

The order: the channels the contact put in order, then email (who named no preference gets email), then the
others in the order the message offers them. The first that is open is taken; the reasons say why each
before it was not ("text: preferred, but opted out of texts; email: default, allowed").
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from bluffside.core.care.house import Care
from bluffside.core.channels.consent import why_closed
from bluffside.core.facts import Contact
from bluffside.core.terms import Channel, Purpose


@dataclass(frozen=True, slots=True)
class Weighed:
    """One channel that was looked at: why it stood there, and why it was closed (empty: it was taken)."""

    channel: Channel
    standing: str
    closed: str

    def describe(self) -> str:
        return f"{self.channel}: {self.standing}, {f'but {self.closed}' if self.closed else 'allowed'}"


@dataclass(frozen=True, slots=True)
class Choice:
    channel: Channel | None
    weighed: tuple[Weighed, ...]

    def describe(self) -> str:
        return "; ".join(one.describe() for one in self.weighed) or "the message has no version for any channel"


def choose(
    contact: Contact, offered: Sequence[Channel], purpose: Purpose, care: Care, now: datetime | None = None
) -> Choice:
    """The channel to use of those the message has a version for; None when all are closed."""
    weighed: list[Weighed] = []
    for channel, standing in _order(contact, offered):
        closed = why_closed(contact, channel, purpose, care, now)
        weighed.append(Weighed(channel, standing, closed))
        if not closed:
            return Choice(channel, tuple(weighed))
    return Choice(None, tuple(weighed))


def _order(contact: Contact, offered: Sequence[Channel]) -> list[tuple[Channel, str]]:
    order = {channel: "preferred" for channel in contact.channel_order if channel in offered}
    if "email" in offered:
        order.setdefault("email", "default")
    for channel in offered:
        order.setdefault(channel, "next in the message")
    return list(order.items())
