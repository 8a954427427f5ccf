"""Wording of our own that ships: messages by trade and occasion, to begin one of the account's from. None is ever sent by itself.

A file is a trade; a message has a version for one channel or several."""

from functools import cache
from pathlib import Path
from typing import NamedTuple

import yaml

from bluffside.core.steps import KINDS
from bluffside.core.steps.speaking import Speaking
from bluffside.core.workflow.library import LINE, named

SERVICE = ("welcome", "thanks", "missed you")  # what follows from something they have with the business


class ShippedWording(NamedTuple):
    """`key`: trade and place in it, as in the address; `line`: as a line would say it."""

    key: str
    trade: str
    occasion: str
    name: str
    line: Speaking


@cache
def wordings() -> tuple[ShippedWording, ...]:
    """Those of a trade together, in the order of the files."""
    found = []
    for file in sorted(Path(__file__).parent.glob("*.yaml")):
        data = yaml.safe_load(file.read_text(encoding="utf-8"))
        for number, one in enumerate(data["messages"]):
            versions = {channel: one[channel] for channel in ("email", "text") if channel in one}
            kind = next(iter(versions)) if len(versions) == 1 else "reach"
            said = {"message": versions[kind]} if kind in versions else versions
            purpose = "service" if one["occasion"] in SERVICE and kind == "text" else "marketing"
            line = KINDS[kind].model_validate({"kind": kind, "id": LINE, "purpose": purpose, **said})
            assert isinstance(line, Speaking)
            key = f"{file.stem}-{number}"
            found.append(ShippedWording(key, data["trade"], one["occasion"], one["name"], named(line, one["name"])))
    return tuple(found)
