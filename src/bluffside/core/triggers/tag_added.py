"""Tag added: starts going forward only; who has the tag already is not enrolled by publishing."""

from collections.abc import Mapping
from typing import Literal

from bluffside.core.steps.base import part
from bluffside.core.triggers.base import Trigger


class TagAdded(Trigger):
    label = "when a tag is added"
    sentence = "when someone is tagged {tag}"
    listens_to = "tag.added"

    kind: Literal["tag_added"] = "tag_added"
    tag: str = part("tag", "tag", default="", max_length=80)

    def subject(self) -> str:
        return self.tag

    def fits(self, data: Mapping[str, str]) -> bool:
        return bool(self.tag) and data.get("tag") == self.tag

    def fault(self) -> str:
        return "" if self.tag.strip() else "It starts on a tag, and no tag is named yet."
