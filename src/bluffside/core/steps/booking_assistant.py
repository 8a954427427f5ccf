"""Booking assistant: it talks with them until a time is booked, or a person is to go on (core.assistant).

The line above has asked them; it hears what they answer. What comes of the conversation takes a lane, and one that there is no
lane for goes on below:

    booked      a time is in the diary; it still hears them until then, and moves or cancels it
    declined    they do not want to, or have cancelled
    later       they would come back to it by themselves, or said no more in the middle of it
    person      somebody of the team is to go on, told why and what was said
    none        they said nothing at all for as long as the line waits

What may mean that they want no more stays until somebody has looked, as at any wait for a reply.
"""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Literal, Self

from pydantic import Field, model_validator

from bluffside.core.assistant.talking import Next, Talk, free_among, hear, summary
from bluffside.core.assistant.talking import in_words as time_in_words
from bluffside.core.channels.answers import is_likely_opt_out, is_opt_out
from bluffside.core.conditions import Need
from bluffside.core.engine.booking_effects import BookAppointment, FetchPerson
from bluffside.core.engine.effects import CallOff, ChangeAppointment, SendMessage
from bluffside.core.engine.moves import ON, Into, Leave, Move, Stay
from bluffside.core.engine.reply_effects import TakeReply
from bluffside.core.engine.signals import Replied
from bluffside.core.engine.turn import NEVER, Setting, Turn
from bluffside.core.events import Event
from bluffside.core.facts import Appointment
from bluffside.core.steps.base import Fault, Lane, Span, Step, When, needs, part
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.local import to_instant, to_local
from bluffside.core.words import span

ASSISTANT = "Booking assistant"
READ, TAKEN_OVER, BOOKED = "reply.read", "conversation.taken_over", "appointment.booked"
Ending = Literal["booked", "declined", "later", "person", "none"]
HEADINGS: dict[Ending, str] = {
    "booked": "books a time",
    "declined": "does not want to",
    "later": "comes back to it later",
    "person": "somebody is to go on",
    "none": "says nothing",
}


class AssistantLane(Lane):
    ending: Ending

    def heading(self) -> str:
        return HEADINGS[self.ending]


class BookingAssistant(Step):
    label = ASSISTANT
    finds = ("booking assistant", "book", "talk")
    sentence = "The booking assistant finds a time for {type} with them. They have {limit} for each answer, and twice that in all."
    who = "account"
    waits = "answer"
    divides = True

    kind: Literal["booking_assistant"] = "booking_assistant"
    type: str = part("appointment", "type of appointment", default="", max_length=120)
    limit: Duration = part("duration", "how long to wait for each answer", default=Duration(3, "day"))
    lanes: tuple[AssistantLane, ...] = Field(default=(), max_length=len(HEADINGS))

    @model_validator(mode="after")
    def _one_lane_an_ending(self) -> Self:
        endings = [lane.ending for lane in self.lanes]
        if len(set(endings)) < len(endings):
            raise ValueError(f"each ending ({', '.join(HEADINGS)}) has at most one lane")
        return self

    @classmethod
    def blank(cls) -> "BookingAssistant":
        usual: tuple[Ending, ...] = ("booked", "person", "none")
        return cls(id="new", lanes=tuple(AssistantLane(id=f"new-{ending}", ending=ending) for ending in usual))

    def lanes_below(self) -> Sequence[Lane]:
        return self.lanes

    def begin(self, turn: Turn) -> Move:
        turn.talk = (self.id, Talk())
        if self._booked(turn):
            return self._end(turn, "booked", "Has a time already")
        until = self.limit.after(turn.now, turn.zone)
        turn.because("The booking assistant hears what they answer, until {}.", until)
        return Stay(until, listens=True)

    def hear(self, turn: Turn, reply: Replied) -> Move:
        heard = turn.meant(reply)
        seen = {"reply": reply.text}
        if is_likely_opt_out(heard):
            turn.because(
                "Answered “{}”, which may mean that they want no more. Stays until somebody has looked.",
                reply.text,
                seen=seen,
            )
            self._answered(turn, reply, needs_person=True)
            return Stay(NEVER, listens=True)
        if is_opt_out(heard):
            turn.because("Answered “{}”. Leaves: the reply asks to stop.", reply.text, seen=seen)
            return Leave("opted out")
        said = self._talk(turn, reply)
        if said.person:
            return self._end(turn, "person", f"A person goes on, since {said.person}")
        if said.talk.stage == "booked" and said.books:
            return self._end(turn, "booked", f"Booked for {time_in_words(said.books)}")
        if said.talk.stage == "over":
            put_off = said.reading is not None and said.reading.means == "later"
            return self._end(turn, *(("later", "Put off") if put_off else ("declined", "Declined")))
        in_all = self.limit.after(self.limit.after(turn.arrived, turn.zone), turn.zone)
        return Stay(min(self.limit.after(turn.now, turn.zone), in_all), listens=True)

    def hear_later(self, turn: Turn, reply: Replied) -> bool:
        """What they write once a time is booked, while they stand elsewhere; answers whether it was for the assistant: it moves
        and cancels, and answers questions."""
        heard = turn.meant(reply)
        if is_opt_out(heard) or not self._is_up_to_date(turn):
            return False
        begun, said = turn.talk, self._heard(turn, reply)
        if (
            is_likely_opt_out(heard) and not said.cancels
        ):  # what they cancel is; and somebody looks whether more is meant
            return False
        if begun and begun[1].stage == "booked" and (said.person or said.stops):
            return False  # nothing that it was asked: as if it were not there
        self._carry_out(turn, reply, said)
        return True

    def notice(self, turn: Turn, event: Event) -> Move | None:
        by = event.by or "the team"
        if event.kind == TAKEN_OVER:
            turn.do(CallOff(*turn.key, "somebody of the team goes on with it", (self.id,)))
            return self._end(turn, "person", f"{by} goes on with it")
        if event.kind == READ and turn.state.until == NEVER and not event.data["wants_out"]:
            return self._end(turn, "person", f"Read by {by}, who goes on with it")
        if event.kind == BOOKED and event.data["type"] == self.type:
            turn.do(CallOff(*turn.key, "a time is booked meanwhile", (self.id,)))
            return self._end(turn, "booked", "Booked in another way")
        return None

    def hears(self) -> frozenset[str]:
        return frozenset({READ, TAKEN_OVER, BOOKED})

    def wake(self, turn: Turn) -> Move:
        if turn.talk and turn.talk[1].understood:
            return self._end(turn, "later", f"Said no more for {self.limit}")
        return self._end(turn, "none", f"Said nothing for {self.limit}")

    # ---- what is said

    def _heard(self, turn: Turn, reply: Replied) -> Next:
        account = turn.facts.account
        talk = turn.talk[1] if turn.talk else Talk()
        times = [to_local(one.start, account.zone) for one in account.free_times(self.type, turn.now) if one.left]
        return hear(talk, reply.text, to_local(turn.now, account.zone), free_among(times), account.assistant)

    def _talk(self, turn: Turn, reply: Replied) -> Next:
        said = self._heard(turn, reply)
        self._carry_out(turn, reply, said)
        return said

    def _carry_out(self, turn: Turn, reply: Replied, said: Next) -> None:
        """Each answer is a round of its own, so that what is done of it has a key of its own."""
        turn.round += 1
        key = self.id, turn.round
        script = turn.facts.account.assistant
        meant = said.talk.understood
        turn.because(
            "Answered “{}” after {}. Understood: {}.",
            reply.text, span(turn.now - turn.arrived), meant, seen={"reply": reply.text, "understood": meant},
        )  # fmt: skip
        booked = self._booked(turn)
        if said.says and script.pause:
            turn.do(CallOff(*turn.key, "they have written again before it went", (self.id,)))
        if said.books:
            start = to_instant(said.books, turn.facts.account.zone)
            turn.do(BookAppointment(*key, self.type, start, booked.id if booked else ""))
        if said.cancels and booked:
            turn.do(ChangeAppointment(*key, booked.id, "cancelled"))
        if said.says:
            changed = bool(said.books) or said.cancels
            turn.do(
                SendMessage(
                    *key, reply.channel, ASSISTANT, self.type if reply.channel == "email" else "", said.says, "service",
                    later=0 if changed else script.pause,
                )
            )  # fmt: skip
            turn.because("Says “{}”", said.says)
        if said.person:
            turn.do(FetchPerson(*key, said.person, summary(said.talk)))
        self._answered(turn, reply, needs_person=bool(said.person))
        turn.talk = (self.id, said.talk) if said.talk.stage != "over" else None

    def _answered(self, turn: Turn, reply: Replied, needs_person: bool) -> None:
        if reply.reply:
            turn.do(TakeReply(self.id, turn.round, reply.reply, needs_person, "assistant"))

    def _booked(self, turn: Turn) -> Appointment | None:
        """What is booked of the type, and still to come."""
        coming = [
            one
            for one in turn.facts.contact.appointments
            if one.to_come and one.type == self.type and one.start > turn.now
        ]
        return min(coming, key=lambda one: one.start, default=None)

    def still_to_come(self, turn: Turn) -> datetime | None:
        """When the appointment begins that it has booked."""
        booked = self._booked(turn)
        return booked.start if booked else None

    def _is_up_to_date(self, turn: Turn) -> bool:
        """Whether something is booked still; the conversation goes by where it stands in the diary by now."""
        booked = self._booked(turn)
        if booked is None or turn.talk is None:
            turn.talk = None
            return False
        at = to_local(booked.start, turn.facts.account.zone)
        turn.talk = (self.id, replace(turn.talk[1], booked=at))
        return True

    def _end(self, turn: Turn, ending: Ending, why: str) -> Move:
        booked = self._booked(turn) if ending == "booked" else None
        talk = turn.talk[1] if turn.talk else Talk()
        at = to_local(booked.start, turn.facts.account.zone) if booked else None
        kept = replace(talk, stage="booked", booked=at, offered=(), asked=None)
        turn.talk = (self.id, kept) if booked else None
        lane = next((one for one in self.lanes if one.ending == ending), None)
        if lane is None:
            turn.because("{}. There is no lane for that, so it goes on below.", why)
            return ON
        turn.because("{}. Takes the lane “{}”.", why, lane.heading())
        return Into(lane.id)

    # ---- without running it

    def when(self, reached: Span, setting: Setting) -> When:
        first = self.limit.after(reached.latest, setting.zone)
        ends = Span(self.limit.after(reached.earliest, setting.zone), self.limit.after(first, setting.zone))
        any_time = Span(reached.earliest, ends.latest)
        return When(any_time, any_time, {lane.id: ends if lane.ending == "none" else any_time for lane in self.lanes})

    def covers_all(self) -> bool:
        return {lane.ending for lane in self.lanes} == set(HEADINGS)

    def connections(self) -> Iterator[tuple[str, str]]:
        yield "channel", "text"

    def brings(self) -> Iterator[tuple[str, str]]:
        yield BOOKED, self.type
        yield "message.sent", ASSISTANT

    def needs(self) -> frozenset[Need]:
        return frozenset({"free"})

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.type, "appointment-empty", "No type of appointment is named yet.")
        if not self.lanes:
            yield Fault(
                "no-lanes", "warning", "What comes of the conversation makes no difference: there are no lanes."
            )
