"""Tag added, any of several: starts going forward only; who has the tag already is not enrolled by publishing."""

from typing import Literal

from bluffside.core.conditions import AnyOf, Condition, TagTest
from bluffside.core.document_part import part
from bluffside.core.triggers.base import Names, Trigger


class TagAdded(Trigger):
    label = "when a tag is added"
    sentence = "when someone is tagged {tags}"
    listens_to = ("tag.added",)
    subject_field = "tags"
    must_be_named = True

    kind: Literal["tag_added"] = "tag_added"
    tags: Names = part("tags", "tags", default=())

    def already(self) -> Condition | None:
        return AnyOf(of=tuple(TagTest(tag=tag) for tag in self.tags)) if self.tags else None
