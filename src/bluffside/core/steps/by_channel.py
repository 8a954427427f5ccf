"""The lines that speak by one channel each, made from what the channels declare: no file of a channel's own is needed here."""

from collections.abc import Mapping
from typing import Any, Literal

from pydantic import create_model

from bluffside.core.channel_kinds import CHANNEL_KINDS, ChannelKind
from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.steps.base import Step, part
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Channel


class ByChannel(Speaking):
    """One message by the channel whose name is the line's kind."""

    message: Wording

    def versions(self) -> Mapping[Channel, Wording]:
        return {self.speaks: self.message}


def step_of(channel: ChannelKind) -> type[Step]:
    """The kind of line that speaks by a channel."""
    spoken: dict[str, Any] = {
        "kind": (Literal[channel.name], channel.name),
        "message": (channel.wording, part("message", "message", default=channel.wording())),
    }
    said = {"label": channel.label, "finds": channel.finds, "sentence": channel.sentence, "speaks": channel.name}
    name, doc = channel.name.title(), f"{channel.label}: one message on this channel."
    return create_model(name, __base__=ByChannel, __module__=__name__, __doc__=doc, __namespace__=said, **spoken)


STEPS = {name: step_of(channel) for name, channel in CHANNEL_KINDS.items()}
