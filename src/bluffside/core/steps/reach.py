"""Reach: one message by the first channel that the contact prefers, allows and can be reached on.

It has a version for some channels; which one goes is decided when it is sent (see channels.reach).
"""

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Any, Literal

from pydantic import create_model

from bluffside.core.channel_kinds import CHANNEL_KINDS, ChannelKind
from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.conditions import Need
from bluffside.core.steps.base import Fault, part
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import CHANNELS, TWO_WAY, Channel


class ByPreference(Speaking):
    """The line without its versions, of which there is one for each channel there is."""

    label = "Reach"
    finds = ("reach", "whichever way", "preferred channel")
    sentence = "Reaches them with {name}, by the channel they prefer."
    speaks = "message"

    name: str = part("line", "message", empty="a new message", default="", max_length=120)

    @classmethod
    def blank(cls) -> "ByPreference":
        usual = {channel: CHANNEL_KINDS[channel].wording() for channel in TWO_WAY}
        return cls(id="new", **usual)

    @cached_property
    def title(self) -> str:
        return self.name or self.label

    def versions(self) -> Mapping[Channel, Wording]:
        given = {channel: getattr(self, channel) for channel in CHANNELS}
        return {channel: wording for channel, wording in given.items() if wording is not None}

    def needs(self) -> frozenset[Need]:
        return super().needs() | {"contact"}

    def faults(self) -> Iterator[Fault]:
        yield from super().faults()
        if not self.versions():
            yield Fault("no-version", "error", f"“{self.title}” has no version for any channel yet.")
        elif len(self.versions()) == 1:
            only = next(iter(self.versions()))
            yield Fault("one-version", "warning", f"“{self.title}” has a version for {only} alone: there is no choice.")


def _version(channel: ChannelKind) -> tuple[Any, Any]:
    return channel.wording | None, part("message", f"{channel.name} version", empty="", default=None)


_fields: dict[str, Any] = {"kind": (Literal["reach"], "reach")}
_fields |= {name: _version(channel) for name, channel in CHANNEL_KINDS.items()}
Reach = create_model("Reach", __base__=ByPreference, __module__=__name__, **_fields)
