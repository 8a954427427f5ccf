"""Appointment: one is booked, moved, cancelled, missed or kept, or its waiting list joined."""

from typing import Literal, get_args

from bluffside.core.conditions import AppointmentTest, Condition
from bluffside.core.document_part import part
from bluffside.core.events import Event
from bluffside.core.triggers.base import Trigger

What = Literal["booked", "moved", "cancelled", "missed", "attended", "waited for"]
KINDS: dict[str, str] = {what: f"appointment.{what.replace(' ', '_')}" for what in get_args(What)}


class AppointmentHappening(Trigger):
    label = "when an appointment is booked, moved, cancelled or missed"
    sentence = "when {type} is {what}"
    listens_to = tuple(KINDS.values())
    subject_field = "type"

    kind: Literal["appointment"] = "appointment"
    type: str = part("appointment", "type of appointment", empty="an appointment", default="", max_length=120)
    what: What = part("choice", "what becomes of it", default="booked")

    def fits(self, event: Event) -> bool:
        return super().fits(event) and event.kind == KINDS[self.what]

    def already(self) -> Condition | None:
        types = (self.type,) if self.type else ()
        if self.what == "booked":
            return AppointmentTest(types=types)
        return (
            None
            if self.what in ("moved", "waited for")
            else AppointmentTest(types=types, states=(self.what,), when="any")
        )
