"""Appointment near: so long before one that stands. A daily pass, or a rehearsal, makes the event."""

from datetime import datetime
from typing import Literal

from bluffside.core.conditions import AppointmentTest, Condition
from bluffside.core.document_part import part
from bluffside.core.events import Event
from bluffside.core.facts import Appointment
from bluffside.core.timing.durations import Duration
from bluffside.core.triggers.base import Trigger


class AppointmentNear(Trigger):
    label = "when an appointment is near"
    sentence = "{before} before {type}"
    listens_to = ("appointment.near",)
    subject_field = "type"

    kind: Literal["appointment_near"] = "appointment_near"
    type: str = part("appointment", "type of appointment", empty="an appointment", default="", max_length=120)
    before: Duration = part("duration", "how long before", default=Duration(2, "day"))

    def fits(self, event: Event) -> bool:
        return super().fits(event) and event.data.get("before") == str(self.before)

    def comes_at(self, appointment: Appointment, zone: str) -> datetime | None:
        """When the event is due for an appointment; None when it is not of the type or no longer stands."""
        if not appointment.to_come or self.type not in ("", appointment.type):
            return None
        return self.before.before(appointment.start, zone)

    def event(self, appointment: Appointment, at: datetime) -> Event:
        data = {"appointment": appointment.id, "type": appointment.type, "before": str(self.before)}
        return Event("appointment.near", at, data)

    def already(self) -> Condition | None:
        return AppointmentTest(types=(self.type,) if self.type else (), within=self.before)
