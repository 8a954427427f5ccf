"""Field changed: any change of a field, or a change to one value."""

from typing import Literal

from bluffside.core.channels.keywords import plain
from bluffside.core.conditions import Condition, FieldTest
from bluffside.core.document_part import part
from bluffside.core.events import Event
from bluffside.core.triggers.base import Trigger


class FieldChanged(Trigger):
    label = "when a field changes"
    sentence = "when {field} changes to {to}"
    listens_to = ("field.changed",)
    subject_field = "field"
    must_be_named = True

    kind: Literal["field_changed"] = "field_changed"
    field: str = part("field", "field", default="", max_length=80)
    to: str = part("line", "new value", empty="anything", default="", max_length=200)

    def fits(self, event: Event) -> bool:
        return super().fits(event) and (not self.to or plain(str(event.data.get("new", ""))) == plain(self.to))

    def already(self) -> Condition | None:
        if not self.field:
            return None
        return FieldTest(field=self.field, compare="is" if self.to else "known", value=self.to)
