"""What a conversation that books has done: an appointment, and a person who is to go on."""

from dataclasses import dataclass, replace
from datetime import datetime

from bluffside.core.engine.effects import Effect
from bluffside.core.events import Event
from bluffside.core.facts import Appointment, Facts


@dataclass(frozen=True, slots=True)
class BookAppointment(Effect):
    """Books a time of a type, or moves what is booked (`instead_of`) to it. `appointment`: the id that it got from whoever has
    carried it out already, and told of it; empty where nobody has, as in a rehearsal."""

    type: str
    start: datetime
    instead_of: str = ""
    appointment: str = ""

    @property
    def id(self) -> str:
        return self.instead_of or self.appointment or f"{self.step}-{self.round}"

    def changes(self, facts: Facts, now: datetime) -> Facts:
        booked = facts.contact.appointments
        if self.instead_of:
            moved = (replace(one, start=self.start) if one.id == self.instead_of else one for one in booked)
            return facts.with_contact(appointments=tuple(moved))
        return facts.with_contact(appointments=(*booked, Appointment(self.id, self.type, self.start)))

    def event(self, facts: Facts, now: datetime) -> Event | None:
        if self.appointment:
            return None
        kind = "appointment.moved" if self.instead_of else "appointment.booked"
        return Event(kind, now, {"appointment": self.id, "type": self.type, "start": self.start})


@dataclass(frozen=True, slots=True)
class FetchPerson(Effect):
    """Somebody of the team is to go on with a conversation: why, and what they need to know."""

    why: str
    summary: str = ""
