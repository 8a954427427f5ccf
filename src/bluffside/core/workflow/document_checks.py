"""Checks of a workflow alone: what its document shows without knowing the account around it."""

from collections.abc import Iterator, Sequence
from typing import Any

from bluffside.core.events import SUBJECTS, Event
from bluffside.core.steps.base import Mend, Step
from bluffside.core.steps.repeat import Repeat
from bluffside.core.steps.speaking import Speaking
from bluffside.core.steps.timed import Timed
from bluffside.core.terms import Channel
from bluffside.core.timing.hours import LAWFUL_FROM, LAWFUL_TO
from bluffside.core.timing.local import FIRST
from bluffside.core.triggers.date_comes import DateComes
from bluffside.core.triggers.task_done import TaskDone
from bluffside.core.workflow.check import Check
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.graph import reachable, unbounded_loop
from bluffside.core.workflow.program import END, MOST_PASSES, MOST_VISITS, Program, compile_workflow, passes_of

BRINGS_A_DEAL = {"deal.created", "deal.won", "deal.lost", "deal.rested", "stage.changed", "workflow.handed_over"}


def check_alone(workflow: Workflow) -> list[Check]:
    program = compile_workflow(workflow)
    found = [*_whole(workflow), *_steps(workflow), *_unreachable(program), *_passes(program), *_once(program)]
    found += [*_waits(workflow), *_yearly(workflow), *_no_appointment(workflow), *_no_deal(workflow)]
    return found + _back_to_back(workflow.steps, {})


def _whole(workflow: Workflow) -> Iterator[Check]:
    if not workflow.steps:
        yield Check("no-lines", "", "error", "There are no lines yet.")
    if not workflow.starts:
        mend = Mend("Let people be enrolled by hand", "set_workflow", "starts", [{"kind": "by_hand"}])
        yield Check("no-start", "", "error", "Nothing starts it.", mend)
    for trigger in workflow.starts:
        if fault := trigger.fault():
            yield Check("start-incomplete", "", "error", fault)
    for trigger in workflow.leaves_on:
        if fault := trigger.fault():
            yield Check("leave-incomplete", "", "error", fault)
    yield from _aim(workflow)
    if workflow.entry.who and (missing := workflow.entry.who.missing()):
        yield Check("entry-incomplete", "", "error", f"Who may come in is not complete: {missing}.")
    speaks = {step.speaks for step in walk(workflow.steps)}
    if workflow.steps and not speaks - {""}:
        yield Check("nobody-speaks", "", "warning", "It sends no message and asks for no call.")
    yield from _hours(workflow, speaks)


def _aim(workflow: Workflow) -> Iterator[Check]:
    aim = workflow.aim
    if aim is None:
        if workflow.entry.hold_back:
            sentence = "Some are held back to compare, and no aim says on what: name its aim."
            yield Check("held-back-for-nothing", "", "error", sentence)
        return
    if fault := aim.fault():
        yield Check("aim-incomplete", "", "error", fault)
    for step in walk(workflow.steps):
        if step.waits:  # for somebody to do it
            continue
        brought = [Event(kind, FIRST, {SUBJECTS[kind]: subject}) for kind, subject in step.brings()]
        if any(one.when is None and one.fits(event) for one in aim.happens for event in brought):
            sentence = "It makes its own aim come true: whoever comes here reaches it by this line alone."
            yield Check("reaches-by-itself", step.id, "warning", sentence)


def _hours(workflow: Workflow, speaks: set[str]) -> Iterator[Check]:
    if not speaks & {"text", "voicemail"}:
        return
    lawful: dict[str, Any] = {"start": f"{LAWFUL_FROM:%H:%M}", "end": f"{LAWFUL_TO:%H:%M}"}
    if workflow.hours is None:
        mend = Mend("Send only from 09:00 to 19:00", "set_workflow", "hours", {"start": "09:00", "end": "19:00"})
        yield Check("any-hour", "", "warning", "Texts may go out at any hour, also at night.", mend)
    elif workflow.hours.start < LAWFUL_FROM or workflow.hours.end > LAWFUL_TO:
        lawful["weekdays"] = list(workflow.hours.weekdays)
        mend = Mend("Send only from 08:00 to 21:00", "set_workflow", "hours", lawful)
        sentence = "Texts may go out before 08:00 or after 21:00 where the contact is."
        yield Check("wide-hours", "", "warning", sentence, mend)


def _no_appointment(workflow: Workflow) -> Iterator[Check]:
    """Lines that go by an appointment in a workflow that brings none: it does not start on one, and nothing in it books one."""
    waits = {id(start) for start in workflow.starts if getattr(start, "what", "") == "waited for"}
    starts = any(
        kind.startswith("appointment.") and id(start) not in waits
        for start in workflow.starts
        for kind in start.listens_to
    )
    steps = list(walk(workflow.steps))
    books = any(kind == "appointment.booked" for step in steps for kind, _ in step.brings())
    heard = any("appointment.booked" in step.hears() for step in steps if not isinstance(step, Timed))
    if starts or books or heard:
        return
    for step in steps:
        if "appointments" in step.needs():
            sentence = "Nothing here brings an appointment: this goes by one that somebody happens to have, and is left out for all others."
            yield Check("no-appointment", step.id, "warning", sentence)
            return


def _steps(workflow: Workflow) -> Iterator[Check]:
    for step in walk(workflow.steps):
        for fault in step.faults():
            yield Check(fault.code, step.id, fault.severity, fault.sentence, fault.mend)


def _unreachable(program: Program) -> Iterator[Check]:
    """Lines and lanes that nobody can reach, each told where it begins."""
    reached = reachable(program)
    for place, node in program.nodes.items():
        if place not in reached:
            continue
        for lane, why in node.step.dead_lanes().items():
            heading = next(one.heading() for one in node.step.lanes_below() if one.id == lane)
            mend = Mend("Remove the lane and its lines", "remove_lane", lane)
            yield Check("lane-unreachable", place, "error", f"Nobody takes the lane “{heading}”: {why}.", mend)
        if node.after != END and node.after not in reached and node.after not in node.loops:
            mend = Mend("Remove the line", "remove")
            yield Check("after-the-end", node.after, "error", "Nobody gets here: every way above has ended.", mend)


def _passes(program: Program) -> Iterator[Check]:
    if round_ := unbounded_loop(program):
        yield Check("goes-round", round_[0], "error", "It goes round without end.")
    passes = passes_of(program)
    for place, node in program.nodes.items():
        if isinstance(node.step, Repeat) and (often := passes[place] * node.step.times) > MOST_PASSES:
            sentence = f"Loops in loops: its lines would be gone through {often:,} times; {MOST_PASSES:,} is the most."
            fewer = max(1, node.step.times * MOST_PASSES // often)
            mend = Mend(f"Repeat {fewer} times", "set", "times", fewer)
            yield Check("repeats-too-often", place, "error", sentence, mend)
    if (visits := sum(passes.values())) > MOST_VISITS:
        sentence = f"With its loops, somebody may come to {visits:,} lines; {MOST_VISITS:,} is the most."
        yield Check("repeats-too-often", "", "error", sentence)


def _once(program: Program) -> Iterator[Check]:
    """Lines that come once, in a loop."""
    for place, node in program.nodes.items():
        if isinstance(node.step, Timed) and node.step.comes_once and node.loops:
            sentence = "It is the same moment each time round, so it holds nobody up after the first."
            yield Check("same-each-time", place, "warning", sentence)


def _waits(workflow: Workflow) -> Iterator[Check]:
    """Waits for the outcome of a line that makes no task, and lanes for outcomes of lines that are gone."""
    tasks = {step.id for step in walk(workflow.steps) if step.who == "member"}
    for step in walk(workflow.steps):
        for lane in step.lanes_below():
            on = getattr(lane, "on", None)
            if isinstance(on, TaskDone) and on.step and on.step not in tasks:
                sentence = f"It waits for the outcome of “{on.step}”, and no such line makes a task."
                yield Check("no-such-task", step.id, "error", sentence)


def _yearly(workflow: Workflow) -> Iterator[Check]:
    """What comes each year, for people who come in once."""
    if workflow.entry.again != "never":
        return
    entry = workflow.entry.model_copy(update={"again": "always"}).model_dump(mode="json")
    for start in workflow.starts:
        if isinstance(start, DateComes) and start.often == "each_year":
            sentence = f"It starts {start.said()}, and nobody comes in twice: each gets it in one year only."
            mend = Mend("Let people come in again", "set_workflow", "entry", entry)
            yield Check("yearly-once", "", "warning", sentence, mend)


def _no_deal(workflow: Workflow) -> Iterator[Check]:
    """A workflow that deals come into, each once, and a start that brings a person without one."""
    if workflow.entry.each == "person":
        return
    entry = workflow.entry.model_copy(update={"each": "person"}).model_dump(mode="json")
    mend = Mend("Let each person in once at a time", "set_workflow", "entry", entry)
    for start in workflow.starts:
        if set(start.listens_to) - BRINGS_A_DEAL:
            sentence = f"Each deal comes in, and what starts it {start.said()} brings none: such people are in it once, for no deal."
            yield Check("no-deal", "", "warning", sentence, mend)


def _back_to_back(steps: Sequence[Step], last: dict[Channel, str]) -> list[Check]:
    """Messages on one channel with no time between them; `last` is what was just sent, by channel."""
    found: list[Check] = []
    for step in steps:
        if isinstance(step, Speaking) and not step.held:
            for channel in step.versions():
                if channel in last:
                    wait = {"kind": "wait", "duration": "1 day"}
                    mend = Mend("Wait a day before it", "insert_before", value=wait)
                    sentence = f"“{step.title}” goes out right after “{last[channel]}”, and both go by {channel}."
                    found.append(Check("back-to-back", step.id, "warning", sentence, mend))
            last = dict.fromkeys(step.versions(), step.title)
        elif step.waits:
            last = {}
        for lane in step.lanes_below():
            found += _back_to_back(lane.steps, dict(last))
        if step.lanes_below():
            last = {}
    return found
