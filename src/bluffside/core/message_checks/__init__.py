"""Checks of what a message says, a file each, collected from this folder: each declares its CHECK (base.MessageCheck)."""

from collections.abc import Iterator

from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.kinds import declared_in
from bluffside.core.message_checks.base import MessageCheck, MessageFault
from bluffside.core.terms import Purpose

CHECKS: list[MessageCheck] = declared_in(__name__, __path__, "CHECK")


def faults_of(wording: Wording, name: str, purpose: Purpose) -> Iterator[MessageFault]:
    for check in CHECKS:
        yield from check(wording, name, purpose)
