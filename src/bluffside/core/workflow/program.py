"""A document compiled to a flat table: for each step what comes after it, and where its lanes begin.

Every way leads forward in the order of the script: after the last line of a lane comes the line below
the lanes. That is why following moves always ends.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from bluffside.core.steps.base import Step
from bluffside.core.timing.hours import SendingHours
from bluffside.core.workflow.document import Workflow

END = ""  # the place after the last line


class UnknownPlace(LookupError):
    """An enrolment stands at a step that this version does not have."""


@dataclass(frozen=True, slots=True)
class Node:
    step: Step
    after: str
    lanes: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Program:
    first: str
    nodes: Mapping[str, Node]
    hours: SendingHours | None
    leaves_on_reply: bool

    def step(self, place: str) -> Step:
        return self._node(place).step

    def after(self, place: str) -> str:
        """The place after this one; after no place comes the first line."""
        return self._node(place).after if place else self.first

    def into(self, place: str, lane: str) -> str:
        """Where a lane begins; an empty lane begins where the lanes close."""
        return self._node(place).lanes[lane]

    def _node(self, place: str) -> Node:
        try:
            return self.nodes[place]
        except KeyError:
            raise UnknownPlace(f"there is no line “{place}” in this version") from None


def compile_workflow(workflow: Workflow) -> Program:
    nodes: dict[str, Node] = {}

    def lay(steps: Sequence[Step], then: str) -> str:
        """Lays a run of steps that leads to `then`; answers where it begins."""
        for index in reversed(range(len(steps))):
            step = steps[index]
            lanes = {lane.id: lay(lane.steps, then) for lane in step.lanes_below()}
            nodes[step.id] = Node(step, then, lanes)
            then = step.id
        return then

    first = lay(workflow.steps, END)
    return Program(first, nodes, workflow.hours, "reply" in workflow.leaves_on)
