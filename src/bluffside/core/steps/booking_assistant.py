"""Booking assistant: it takes over the conversation to book an appointment. Wait for the booking below."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.engine.effects import HandToAssistant
from bluffside.core.engine.turn import Turn
from bluffside.core.messages.merge import faults
from bluffside.core.steps.base import Fault, OneAct, needs, part


class BookingAssistant(OneAct):
    label = "Booking assistant"
    finds = ("booking assistant", "book")
    sentence = "Hands them to the booking assistant for {type}."

    kind: Literal["booking_assistant"] = "booking_assistant"
    type: str = part("appointment", "type of appointment", default="", max_length=120)
    opening: str = part("text", "what it begins with", default="", max_length=2_000)

    def act(self, turn: Turn) -> None:
        turn.do(HandToAssistant(*turn.key, self.type, turn.render(self.opening)))
        turn.because("Handed to the booking assistant for “{}”.", self.type)

    def connections(self) -> Iterator[tuple[str, str]]:
        yield "service", "assistant"

    def brings(self) -> Iterator[tuple[str, str]]:
        yield "appointment.booked", self.type

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.type, "appointment-empty", "No type of appointment is named yet.")
        for fault in faults(self.opening):
            yield Fault("opening-unreadable", "error", f"What it begins with {fault}.")
