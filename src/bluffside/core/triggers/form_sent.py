"""Form sent: the contact fills in a form."""

from typing import Literal

from bluffside.core.conditions import Condition, EventTest
from bluffside.core.document_part import part
from bluffside.core.triggers.base import Trigger


class FormSent(Trigger):
    label = "when a form is sent"
    sentence = "when someone sends the form {form}"
    listens_to = ("form.sent",)
    subject_field = "form"
    must_be_named = True

    kind: Literal["form_sent"] = "form_sent"
    form: str = part("form", "form", default="", max_length=120)

    def already(self) -> Condition | None:
        return EventTest(event="form.sent", about=self.form, within=None) if self.form else None
