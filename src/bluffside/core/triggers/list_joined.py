"""List joined: the contact is put on a list."""

from typing import Literal

from bluffside.core.conditions import Condition, ListTest
from bluffside.core.document_part import part
from bluffside.core.triggers.base import Trigger


class ListJoined(Trigger):
    label = "when a list is joined"
    sentence = "when someone joins the list {list}"
    listens_to = ("list.joined",)
    subject_field = "list"
    must_be_named = True

    kind: Literal["list_joined"] = "list_joined"
    list: str = part("list", "list", default="", max_length=80)

    def already(self) -> Condition | None:
        return ListTest(list=self.list) if self.list else None
