"""Where one enrolment stands: one place at a time."""

from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from types import MappingProxyType
from typing import Any, NamedTuple

from bluffside.core.assistant.kept import from_data, to_data
from bluffside.core.assistant.talking import UNDER_WAY, Talk

NOTHING: Mapping[str, str] = MappingProxyType({})
Loops = tuple[tuple[str, int], ...]  # the innermost last, each with the pass it is at
Planned = Mapping[str, tuple[str, Loops]]
Answered = tuple[str, str]
UNANSWERED: Answered = ("", "")
UNPLANNED: Planned = MappingProxyType({})
FINISHED = "came to the end"
STAYS_FINISHED = "has had all of it, and stays in case its date moves or a clearer answer comes"
SECOND_THOUGHTS = timedelta(minutes=15)  # how long an answer that led to the end can be corrected
DEEPEST = 8  # workflows that start each other end here


class State(NamedTuple):
    """All instants are UTC. A named tuple, since one is made at every step.

    joined    the anchor that "day N" counts from
    place     id of the step it stands at; empty before the first step and once ended
    arrived   when it came to that place
    until     when time moves it on; None once ended
    listens   whether a reply is for the step it stands at
    round     counts the passes of loops; with the step's id it makes the key of what is done once
    ended     why it ended, in words; empty while it runs
    loops     the loops it is inside, the innermost last, each with the pass it is at
    about     what it is about: ids of a deal, an appointment, the form it came by
    by        the member who caused it, empty when nobody did
    depth     how many workflows led here by starting one another
    deadline  a reminder must have gone by then: when what it reminds of begins
    planned   dates that something was planned by ("appointment:7", "field:renewal"), each with the first line that was
              come to of those that go by it, and the loops around that (see engine.replanning)
    answered  the line whose answer led here, and the lane it took, as long as nothing has gone out by it: a clearer answer
              can still correct it
    stopped   reached this line while all sending was stopped, and stays until somebody has decided whether it goes
    finished  came to the end of the script, and stays only in case such a date moves; `place` is the last line
    talk      the conversation that a line has begun (steps.booking_assistant), with its id; it outlasts the line once a time is booked
    """

    joined: datetime
    place: str = ""
    arrived: datetime | None = None
    until: datetime | None = None
    listens: bool = False
    round: int = 1
    ended: str = ""
    loops: Loops = ()
    about: Mapping[str, str] = NOTHING
    by: str = ""
    depth: int = 0
    deadline: datetime | None = None
    planned: Planned = UNPLANNED
    finished: bool = False
    answered: Answered = UNANSWERED
    stopped: bool = False
    talk: tuple[str, Talk] | None = None

    @property
    def running(self) -> bool:
        return not self.ended

    def rest(self) -> dict[str, Any]:
        """What does not deserve a column of its own, as plain data (JSON); what is as usual is left out."""
        rest: dict[str, Any] = {}
        if self.loops:
            rest["loops"] = [list(loop) for loop in self.loops]
        if self.about:
            rest["about"] = dict(self.about)
        if self.by:
            rest["by"] = self.by
        if self.deadline:
            rest["deadline"] = self.deadline.isoformat()
        if self.planned:
            rest["planned"] = {
                date: [line, [list(loop) for loop in loops]] for date, (line, loops) in self.planned.items()
            }
        if self.finished:
            rest["finished"] = True
        if self.answered != UNANSWERED:
            rest["answered"] = list(self.answered)
        if self.stopped:
            rest["stopped"] = True
        if self.talk:
            rest["talk"] = [self.talk[0], to_data(self.talk[1])]
            if self.talk[1].stage in UNDER_WAY:
                rest["talks"] = True  # by which it is found (server.workflows.conversations)
        return rest

    def with_rest(self, data: Mapping[str, Any]) -> "State":
        """The state with what `rest` gave."""
        deadline = data.get("deadline")
        return self._replace(
            loops=_loops(data.get("loops", ())),
            about=data.get("about", self.about),
            by=data.get("by", self.by),
            deadline=datetime.fromisoformat(deadline) if deadline else None,
            planned={date: (line, _loops(loops)) for date, (line, loops) in data.get("planned", {}).items()},
            finished=data.get("finished", False),
            answered=tuple(data.get("answered", UNANSWERED)),
            stopped=data.get("stopped", False),
            talk=(data["talk"][0], from_data(data["talk"][1])) if "talk" in data else None,
        )


def _loops(data: Iterable[tuple[str, int]]) -> Loops:
    return tuple((str(loop), int(number)) for loop, number in data)
