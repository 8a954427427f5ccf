"""A document compiled to a flat table: for each step what comes after it, and where its lanes begin.

Every way leads forward in the order of the script: after the last line of a lane comes the line below the
lanes. The one way back is from the end of a loop's lane to the loop itself, which counts its passes and
lets go after so many. That is why following moves always ends.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import prod

from bluffside.core.conditions import Need
from bluffside.core.steps.base import Step
from bluffside.core.steps.repeat import Repeat
from bluffside.core.steps.timed import Timed
from bluffside.core.timing.hours import SendingHours
from bluffside.core.triggers import Trigger
from bluffside.core.workflow.aim import Aim
from bluffside.core.workflow.document import Workflow

END = ""  # the place after the last line
MOST_PASSES = 1_000
MOST_VISITS = 20_000  # of lines, by one person


class UnknownPlace(LookupError):
    """An enrolment stands at a step that this version does not have."""


class GoesRoundTooOften(ValueError):
    """Loops in loops that would be gone through so often that nobody plays them."""


@dataclass(frozen=True, slots=True)
class Node:
    """`after`: the place below; `lanes`: where each begins (an empty one where the lanes close); `over`: where leaving
    out what follows leads; `loops`: the loops around it, the outermost first."""

    step: Step
    after: str
    lanes: Mapping[str, str]
    over: str
    loops: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Program:
    """`hears`: kinds of event that may mean something to somebody inside; `needs`: facts to be loaded; `by_deal`: each
    enrolment is about a deal, so that somebody may be inside once for each of theirs."""

    name: str
    first: str
    nodes: Mapping[str, Node]
    hours: SendingHours | None
    leaves_on: tuple[Trigger, ...]
    hears: frozenset[str]
    needs: frozenset[Need]
    by_deal: bool = False
    aim: Aim | None = None

    def step(self, place: str) -> Step:
        return self.node(place).step

    def node(self, place: str) -> Node:
        try:
            return self.nodes[place]
        except KeyError:
            raise UnknownPlace(f"there is no line “{place}” in this version") from None


def passes_of(program: Program) -> dict[str, int]:
    """How often one person may come to each line, at most."""

    def times(place: str) -> int:
        step = program.step(place)
        return step.times if isinstance(step, Repeat) else 1

    return {place: prod(map(times, node.loops)) for place, node in program.nodes.items()}


def goes_round_too_often(program: Program) -> bool:
    passes = passes_of(program)
    return max(passes.values(), default=0) > MOST_PASSES or sum(passes.values()) > MOST_VISITS


def compile_workflow(workflow: Workflow) -> Program:
    nodes: dict[str, Node] = {}

    def lay(steps: Sequence[Step], then: str, loops: tuple[str, ...]) -> str:
        """Lays a run of steps that leads to `then`; answers where it begins."""
        over = then
        for step in reversed(steps):
            if step.passes:
                lanes = {lane.id: lay(lane.steps, step.id, (*loops, step.id)) for lane in step.lanes_below()}
            else:
                lanes = {lane.id: lay(lane.steps, then, loops) for lane in step.lanes_below()}
            nodes[step.id] = Node(step, then, lanes, over, loops)
            then = step.id
            if isinstance(step, Timed):
                over = step.id
        return then

    first = lay(workflow.steps, END, ())
    steps = [node.step for node in nodes.values()]
    leaves = frozenset(kind for trigger in workflow.leaves_on for kind in trigger.listens_to)
    needs: frozenset[Need] = frozenset().union(*(step.needs() for step in steps))
    reaching = workflow.aim.happens if workflow.aim else ()
    for trigger in (*workflow.starts, *workflow.leaves_on, *reaching):
        needs |= trigger.when.all_needs() if trigger.when else frozenset()
    if workflow.entry.who:
        needs |= workflow.entry.who.all_needs()
    return Program(
        workflow.name,
        first,
        nodes,
        workflow.hours,
        workflow.leaves_on,
        leaves.union(*(step.hears() for step in steps)),
        needs,
        workflow.entry.each == "deal",
        workflow.aim,
    )
