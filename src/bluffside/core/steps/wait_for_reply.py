"""Wait for a reply: a limit, and a lane for each kind of answer and for none."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Literal, Self

from pydantic import model_validator

from bluffside.core.channels.answers import USUAL_WORDS, Answer, tell
from bluffside.core.channels.keywords import is_opt_out
from bluffside.core.engine.moves import ON, Into, Leave, Move, Stay
from bluffside.core.engine.signals import Replied
from bluffside.core.engine.turn import Setting, Turn
from bluffside.core.steps.base import Fault, Lane, Span, Step, When, part
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.words import span

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
        turn.because("Waits for an answer until {}.", until)
        return Stay(until, listens=True)

    def hear(self, turn: Turn, reply: Replied) -> Move:
        answer, word = tell(reply.text, {lane.answer: lane.words for lane in self.lanes})
        after = span(turn.now - turn.arrived)
        said = f"Answered “{reply.text}” after {after}"
        why = f"“{word}” counts as {answer}" if word else "none of the words fits: other"
        if is_opt_out(reply.text) and not any(lane.answer == "out" for lane in self.lanes):
            turn.because(
                "{}, and there is no lane for that. Leaves: the reply asks to stop.", said, seen={"reply": reply.text}
            )
            return Leave("opted out")
        return self._take(turn, answer, f"{said}; {why}", {"reply": reply.text, "answer": answer})

    def wake(self, turn: Turn) -> Move:
        return self._take(turn, "none", f"Said nothing for {self.limit}", {"answer": "none"})

    def _take(self, turn: Turn, answer: Answer, sentence: str, values: Mapping[str, str]) -> Move:
        lane = next((lane for lane in self.lanes if lane.answer == answer), None)
        if lane is None:
            turn.because("{}. There is no lane for that, so it goes on below.", sentence, seen=values)
            return ON
        turn.because("{}. Takes the lane “{}”.", sentence, lane.heading(), seen=values)
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
