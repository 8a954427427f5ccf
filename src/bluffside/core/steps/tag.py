"""Tag: put a tag on the contact. Workflows that start on that tag may start."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.engine.effects import AddTag
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Fault, OneAct, needs, part


class Tag(OneAct):
    label = "Tag"
    finds = ("tag", "mark", "label")
    sentence = "Tags {tag}."

    kind: Literal["tag"] = "tag"
    tag: str = part("tag", "tag", default="", max_length=80)

    def act(self, turn: Turn) -> None:
        had = self.tag in turn.facts.contact.tags
        turn.do(AddTag(*turn.key, self.tag))
        turn.because("Had the tag “{}” already." if had else "Tagged “{}”.", self.tag)

    def brings(self) -> Iterator[tuple[str, str]]:
        yield "tag.added", self.tag

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.tag, "tag-empty", "No tag is named yet.")
