"""Wait for something: a click, a booking, a form, a stage, an outcome, a reply, with a limit; a lane for each
thing waited for and one for when none of it happens. What it can wait for is what workflows can start on.
"""

from collections.abc import Iterator, Mapping, Sequence
from typing import Literal, Self

from pydantic import model_validator

from bluffside.core.conditions import Need
from bluffside.core.engine.moves import ON, Into, Move, Stay
from bluffside.core.engine.turn import Setting, Turn
from bluffside.core.events import Event
from bluffside.core.steps.base import Fault, Lane, Span, Step, When, part
from bluffside.core.timing.durations import Duration
from bluffside.core.triggers import Happening
from bluffside.core.triggers.appointment import AppointmentHappening
from bluffside.core.triggers.link_clicked import LinkClicked
from bluffside.core.triggers.task_done import TaskDone
from bluffside.core.words import span


class HappeningLane(Lane):
    """Taken when `on` happens first; without `on`, when the limit is reached and nothing has."""

    sentence = "{on}"

    on: Happening | None = part("happening", "what happens", empty="nothing of that happens", default=None)

    def heading(self) -> str:
        return self.on.describe() if self.on else "nothing of that happens"


class WaitFor(Step):
    label = "Wait for something"
    finds = ("wait for", "until", "click", "booking", "form", "outcome")
    sentence = "Waits up to {limit} for what comes first."
    who = "contact"
    waits = "answer"
    divides = True

    kind: Literal["wait_for"] = "wait_for"
    limit: Duration = part("duration", "how long to wait", default=Duration(3, "day"))
    lanes: tuple[HappeningLane, ...] = ()

    @model_validator(mode="after")
    def _one_lane_for_none(self) -> Self:
        if sum(lane.on is None for lane in self.lanes) > 1:
            raise ValueError("there is one lane for when nothing happens")
        return self

    @classmethod
    def blank(cls) -> "WaitFor":
        return cls(id="new", lanes=(HappeningLane(id="new-1", on=LinkClicked()), HappeningLane(id="new-2")))

    def lanes_below(self) -> Sequence[Lane]:
        return self.lanes

    def begin(self, turn: Turn) -> Move:
        for lane in self.lanes:
            if done := self._done_before(lane, turn):
                turn.because("Was done before this line was reached: takes the lane “{}”.", lane.heading(), seen=done)
                return Into(lane.id)
        until = self.limit.after(turn.now, turn.zone)
        turn.because("Waits for what comes first, until {}.", until)
        return Stay(until)

    def _done_before(self, lane: HappeningLane, turn: Turn) -> dict[str, str]:
        """The outcome of a task that somebody finished before this line was reached, as data; in a loop it might be
        that of an earlier pass, so there it is not looked for."""
        on = lane.on
        if isinstance(on, AppointmentHappening) and on.what == "booked" and turn.talk and turn.talk[1].booked:
            coming = (one.type for one in turn.facts.contact.appointments if one.to_come)
            return {"booked": "by the booking assistant"} if any(on.type in ("", type) for type in coming) else {}
        if not isinstance(on, TaskDone) or not on.step or turn.loops:
            return {}
        since = (event for event in turn.facts.contact.happened if event.at >= turn.state.joined)
        found = next((event for event in since if on.admits(event, turn.case)), None)
        return {key: str(value) for key, value in found.data.items()} if found else {}

    def notice(self, turn: Turn, event: Event) -> Move | None:
        for lane in self.lanes:
            if lane.on and lane.on.admits(event, turn.case):
                after = span(turn.now - turn.arrived)
                seen = {key: str(value) for key, value in event.data.items()}
                turn.because("After {}: takes the lane “{}”.", after, lane.heading(), seen=seen)
                return Into(lane.id)
        return None

    def wake(self, turn: Turn) -> Move:
        none = next((lane for lane in self.lanes if lane.on is None), None)
        if none is None:
            turn.because("Nothing of that happened for {}. There is no lane for that, so it goes on below.", self.limit)
            return ON
        turn.because("Nothing of that happened for {}. Takes the lane “{}”.", self.limit, none.heading())
        return Into(none.id)

    def when(self, reached: Span, setting: Setting) -> When:
        ends = Span(self.limit.after(reached.earliest, setting.zone), self.limit.after(reached.latest, setting.zone))
        any_time = Span(reached.earliest, ends.latest)
        lanes: Mapping[str, Span] = {lane.id: any_time if lane.on else ends for lane in self.lanes}
        return When(ends, ends, lanes)

    def covers_all(self) -> bool:
        return any(lane.on is None for lane in self.lanes)

    def dead_lanes(self) -> Mapping[str, str]:
        dead, waited = {}, list[object]()
        for lane in self.lanes:
            if lane.on is not None and lane.on in waited:
                dead[lane.id] = "a lane before it waits for the same"
            waited.append(lane.on)
        return dead

    def needs(self) -> frozenset[Need]:
        needs = frozenset[Need]()
        for lane in self.lanes:
            if lane.on and lane.on.when:
                needs |= lane.on.when.all_needs()
            if isinstance(lane.on, TaskDone) and lane.on.step:
                needs |= {"happened"}
        return needs

    def hears(self) -> frozenset[str]:
        return frozenset(kind for lane in self.lanes if lane.on for kind in lane.on.listens_to)

    def faults(self) -> Iterator[Fault]:
        if not any(lane.on for lane in self.lanes):
            yield Fault("nothing-to-wait-for", "error", "It waits, and nothing is named that it waits for.")
        for lane in self.lanes:
            if lane.on and (fault := lane.on.fault()):
                yield Fault("lane-incomplete", "error", fault)
