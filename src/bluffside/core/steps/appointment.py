"""Appointment: confirm or cancel the one the enrolment is about, else the next one to come of a type."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.conditions import Need
from bluffside.core.engine.effects import ChangeAppointment
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import OneAct, part


class SetAppointment(OneAct):
    label = "Appointment"
    finds = ("appointment", "confirm appointment", "cancel appointment")
    sentence = "Has {type} {to}."

    kind: Literal["appointment"] = "appointment"
    type: str = part("appointment", "type of appointment", empty="the appointment", default="", max_length=120)
    to: Literal["confirmed", "cancelled"] = part("choice", "confirmed or cancelled", default="confirmed")

    def act(self, turn: Turn) -> None:
        one = turn.setting.appointment(self.type)
        if one is None:
            turn.because("There is no appointment to be {}.", self.to)
            return
        turn.do(ChangeAppointment(*turn.key, one.id, self.to))
        turn.because("{} on {} is {}.", one.type, one.start, self.to)

    def needs(self) -> frozenset[Need]:
        return frozenset({"appointments"})

    def brings(self) -> Iterator[tuple[str, str]]:
        if self.to == "cancelled":
            yield "appointment.cancelled", self.type
