"""Tag removed, any of several."""

from typing import Literal

from bluffside.core.document_part import part
from bluffside.core.triggers.base import Names, Trigger


class TagRemoved(Trigger):
    label = "when a tag is taken off"
    sentence = "when someone loses the tag {tags}"
    listens_to = ("tag.removed",)
    subject_field = "tags"
    must_be_named = True

    kind: Literal["tag_removed"] = "tag_removed"
    tags: Names = part("tags", "tags", default=())
