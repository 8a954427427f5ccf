"""The channels by which a contact is reached: every module of this folder that holds a `CHANNEL`.

To add one, add a file (see docs/a-new-channel.md). Its line in a workflow, its place in a message by preference, its consent,
its address, its words in conditions, checks, reports and on the contact's own page follow from what it declares.
"""

from collections.abc import Mapping

from bluffside.core.channel_kinds.base import ChannelKind
from bluffside.core.kinds import declared_in


def _found() -> Mapping[str, ChannelKind]:
    kinds: list[ChannelKind] = declared_in(__name__, __path__, "CHANNEL")
    return {one.name: one for one in sorted(kinds, key=lambda one: (one.rank, one.name))}


CHANNEL_KINDS = _found()

__all__ = ["CHANNEL_KINDS", "ChannelKind"]
