"""What can be reached, and what goes round, proven on the compiled table."""

from collections.abc import Iterator, Mapping
from graphlib import CycleError, TopologicalSorter

from bluffside.core.workflow.program import END, Program


def leads_to(program: Program, place: str) -> Iterator[str]:
    """The places that can come next after one; END when the script is out of lines."""
    node = program.node(place)
    step, dead = node.step, node.step.dead_lanes()
    if step.ends:
        return
    yield from (begins for lane, begins in node.lanes.items() if lane not in dead)
    if step.passes or not step.covers_all():
        yield node.after
    if step.may_leave_out():
        yield node.over


def reachable(program: Program) -> frozenset[str]:
    """Every place somebody can come to; END among them when somebody can come to the end of the script."""
    found: set[str] = set()
    waiting = [program.first]
    while waiting:
        place = waiting.pop()
        if place in found:
            continue
        found.add(place)
        if place != END:
            waiting += leads_to(program, place)
    return frozenset(found)


def unbounded_loop(program: Program) -> tuple[str, ...]:
    """A way that goes round without passing a line that counts its passes; empty when there is none, and then
    everyone who is not kept by a wait comes to an end."""
    ways = {
        place: {to for to in leads_to(program, place) if to != END}
        for place, node in program.nodes.items()
        if not node.step.passes
    }
    return going_round({place: tos & ways.keys() for place, tos in ways.items()})


def going_round(ways: Mapping[str, set[str]]) -> tuple[str, ...]:
    """Some cycle of a graph, its first place last again; empty when there is none."""
    try:
        TopologicalSorter(ways).prepare()
    except CycleError as error:
        return tuple(reversed(error.args[1]))
    return ()
