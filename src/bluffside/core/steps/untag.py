"""Untag: take a tag off the contact."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.engine.effects import RemoveTag
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Fault, OneAct, needs, part


class Untag(OneAct):
    label = "Untag"
    finds = ("untag", "take off the tag", "remove tag")
    sentence = "Takes off the tag {tag}."

    kind: Literal["untag"] = "untag"
    tag: str = part("tag", "tag", default="", max_length=80)

    def act(self, turn: Turn) -> None:
        had = self.tag in turn.facts.contact.tags
        turn.do(RemoveTag(*turn.key, self.tag))
        turn.because("Took off the tag “{}”." if had else "Did not have the tag “{}”.", self.tag)

    def brings(self) -> Iterator[tuple[str, str]]:
        yield "tag.removed", self.tag

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.tag, "tag-empty", "No tag is named yet.")
