"""Wait for a reply: a limit, and a lane for each kind of answer and for none.

an answer a lane is for                      takes that lane
another answer, and there is one for other   takes that
another answer, and there is none            stays until somebody has read it, unless such answers go on below
one that may mean they want no more          stays until somebody has looked: then it is "out", or another answer
one that means so                            takes the lane for out, or leaves
a later, clearer one                         corrects the one before, as long as nothing has gone out by it
"""

from collections.abc import Iterator, Mapping, Sequence
from typing import Literal, Self

from pydantic import model_validator

from bluffside.core.channels.answers import USUAL_WORDS, Answer, asks_too, is_likely_opt_out, is_opt_out, tell
from bluffside.core.engine.moves import ON, Into, Leave, Move, Stay
from bluffside.core.engine.reply_effects import TakeReply
from bluffside.core.engine.signals import Replied
from bluffside.core.engine.state import UNANSWERED
from bluffside.core.engine.turn import NEVER, Setting, Turn
from bluffside.core.events import Event
from bluffside.core.steps.base import Fault, Lane, Span, Step, When, part
from bluffside.core.timing.durations import Duration
from bluffside.core.words import span

READ = "reply.read"
HEADINGS: dict[Answer, str] = {
    "yes": "answers",
    "out": "answers",
    "other": "answers anything else",
    "none": "says nothing",
}


class ReplyLane(Lane):
    """`words` tell "yes" and "out" by what is said (see channels.answers)."""

    sentence = "{words}"

    answer: Answer
    words: tuple[str, ...] = part("words", "words", empty="", default=())

    def heading(self) -> str:
        return f"{HEADINGS[self.answer]} {', '.join(self.words)}".strip()


class WaitForReply(Step):
    label = "Wait for a reply"
    finds = ("wait for a reply", "reply", "answer", "ask")
    sentence = "Has {limit} to answer."
    who = "contact"
    waits = "answer"
    divides = True

    kind: Literal["wait_for_reply"] = "wait_for_reply"
    limit: Duration = part("duration", "how long to wait for an answer", default=Duration(3, "day"))
    goes_on: bool = part(
        "yes-no",
        "other answers go on",
        clause="an answer that no lane takes goes on below, unread",
        default=False,
    )
    lanes: tuple[ReplyLane, ...] = ()

    @model_validator(mode="after")
    def _one_lane_an_answer(self) -> Self:
        answers = [lane.answer for lane in self.lanes]
        if len(set(answers)) < len(answers):
            raise ValueError("each kind of answer (yes, out, other, none) has at most one lane")
        return self

    @classmethod
    def blank(cls) -> "WaitForReply":
        answers: tuple[Answer, ...] = ("yes", "out", "other", "none")
        lanes = tuple(ReplyLane(id=f"new-{answer}", answer=answer, words=USUAL_WORDS[answer]) for answer in answers)
        return cls(id="new", lanes=lanes)

    def lanes_below(self) -> Sequence[Lane]:
        return self.lanes

    def begin(self, turn: Turn) -> Move:
        until = self.limit.after(turn.now, turn.zone)
        turn.answered = UNANSWERED
        turn.because("Waits for an answer until {}.", until)
        return Stay(until, listens=True)

    def hear(self, turn: Turn, reply: Replied) -> Move:
        heard = turn.meant(reply)
        said = f"Answered “{reply.text}” after {span(turn.now - turn.arrived)}"
        if is_likely_opt_out(heard):
            turn.because(
                "{}, which may mean that they want no more. Stays until somebody has looked.",
                said,
                seen={"reply": reply.text},
            )
            _becomes(turn, reply, needs_person=True)
            return Stay(NEVER, listens=True)
        answer, word = tell(heard, {lane.answer: lane.words for lane in self.lanes})
        why = f"“{word}” counts as {answer}" if word else "none of the words fits: other"
        if is_opt_out(heard) and not any(lane.answer == "out" for lane in self.lanes):
            turn.because(
                "{}, and there is no lane for that. Leaves: the reply asks to stop.", said, seen={"reply": reply.text}
            )
            return Leave("opted out")
        move = self._take(turn, answer, f"{said}; {why}", {"reply": reply.text, "answer": answer})
        if is_opt_out(heard):
            turn.answered = UNANSWERED  # nothing but opting in takes that back
        stays = isinstance(move, Stay)
        if stays or (word and not asks_too(heard)):  # what is asked besides waits for a person, too
            _becomes(turn, reply, needs_person=stays)
        return move

    def clearer(self, heard: str, taken: str) -> str:
        """The lane for a later answer that says plainly what another lane than the one taken is for; empty for none. Who
        asks to stop leaves."""
        if is_likely_opt_out(heard) or is_opt_out(heard):
            return ""
        answer, word = tell(heard, {lane.answer: lane.words for lane in self.lanes})
        lane = self._lane_for(answer)
        return lane.id if lane and word and lane.id != taken else ""

    def correct(self, turn: Turn, reply: Replied, lane: str) -> Move:
        heading = next(one.heading() for one in self.lanes if one.id == lane)
        seen = {"reply": reply.text}
        turn.because(
            "Corrects it: “{}”, before anything went out. Takes the lane “{}”.", reply.text, heading, seen=seen
        )
        turn.answered = (self.id, lane)
        if not asks_too(turn.meant(reply)):
            _becomes(turn, reply, needs_person=False)
        return Into(lane)

    def notice(self, turn: Turn, event: Event) -> Move | None:
        """Somebody of the team has read the answer that kept them here."""
        if event.kind != READ or turn.state.until != NEVER:
            return None
        answer: Answer = "out" if event.data["wants_out"] else "other"
        if answer == "out" and not self._lane_for(answer):
            return None  # and so leaves (engine.advance)
        by = f" ({event.by})" if event.by else ""
        return self._take(turn, answer, f"Somebody has read the answer{by}", {"answer": answer}, read=True)

    def hears(self) -> frozenset[str]:
        return frozenset({READ})

    def wake(self, turn: Turn) -> Move:
        return self._take(turn, "none", f"Said nothing for {self.limit}", {"answer": "none"})

    def _lane_for(self, answer: Answer) -> ReplyLane | None:
        return next((lane for lane in self.lanes if lane.answer == answer), None)

    def _take(self, turn: Turn, answer: Answer, sentence: str, values: Mapping[str, str], read: bool = False) -> Move:
        lane = self._lane_for(answer) or (self._lane_for("other") if answer != "none" else None)
        if lane is None and self.lanes and answer != "none" and not read and not self.goes_on:
            turn.because("{}. There is no lane for that: stays until somebody has read it.", sentence, seen=values)
            return Stay(NEVER, listens=True)
        if lane is None:
            turn.because("{}. There is no lane for that, so it goes on below.", sentence, seen=values)
            return ON
        turn.because("{}. Takes the lane “{}”.", sentence, lane.heading(), seen=values)
        turn.answered = UNANSWERED if answer == "none" or read else (self.id, lane.id)
        return Into(lane.id)

    def when(self, reached: Span, setting: Setting) -> When:
        ends = Span(self.limit.after(reached.earliest, setting.zone), self.limit.after(reached.latest, setting.zone))
        any_time = Span(reached.earliest, ends.latest)
        lanes = {lane.id: ends if lane.answer == "none" else any_time for lane in self.lanes}
        return When(ends, any_time, lanes)

    def covers_all(self) -> bool:
        return {"other", "none"} <= {lane.answer for lane in self.lanes}

    def faults(self) -> Iterator[Fault]:
        for lane in self.lanes:
            if lane.answer in ("yes", "out") and not any(word.strip() for word in lane.words):
                yield Fault("answer-no-words", "error", f"The lane for “{lane.answer}” has no words to tell it by.")
        if not self.lanes:
            yield Fault("no-lanes", "warning", "An answer makes no difference here: there are no lanes.")


def _becomes(turn: Turn, reply: Replied, needs_person: bool) -> None:
    if reply.reply:
        turn.do(TakeReply(*turn.key, reply.reply, needs_person))
