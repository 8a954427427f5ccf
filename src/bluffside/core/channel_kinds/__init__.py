"""The channels by which a contact is reached: every module of this folder that holds a `CHANNEL`.

To add one, add a file (see docs/a-new-channel.md). Its line in a workflow, its place in a message by preference, its consent,
its address, its words in conditions, checks, reports and on the contact's own page follow from what it declares.
"""

from collections.abc import Mapping
from importlib import import_module
from pkgutil import iter_modules

from bluffside.core.channel_kinds.base import ChannelKind


def _found() -> Mapping[str, ChannelKind]:
    modules = [import_module(f"{__name__}.{info.name}") for info in iter_modules(__path__)]
    kinds = [one.CHANNEL for one in modules if hasattr(one, "CHANNEL")]
    return {one.name: one for one in sorted(kinds, key=lambda one: (one.rank, one.name))}


CHANNEL_KINDS = _found()

__all__ = ["CHANNEL_KINDS", "ChannelKind"]
