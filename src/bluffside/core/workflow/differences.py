"""What changed between two versions of a workflow, in sentences."""

from bluffside.core.steps.base import Step
from bluffside.core.workflow.document import Workflow, walk


def differences(old: Workflow, new: Workflow) -> list[str]:
    """One sentence for each difference, in the order of the new script; empty when there is none."""
    before, after = _lines(old), _lines(new)
    found = []
    if old.name != new.name:
        found.append(f"Is now called “{new.name}”.")
    if old.starts != new.starts:
        found.append(f"Now starts {' or '.join(start.describe() for start in new.starts)}.")
    if old.entry != new.entry:
        found.append(f"{new.entry.describe()}.")
    if old.leaves_on != new.leaves_on:
        found.append("Now leaves on a reply." if new.leaves_on else "No longer leaves on a reply.")
    if old.hours != new.hours:
        found.append(f"Now sends {new.hours.describe()}." if new.hours else "Now sends at any hour.")
    for id, step in after.items():
        if id not in before:
            found.append(f"New: {step.describe()}")
        elif before[id].describe() != step.describe():
            found.append(f"Was: {before[id].describe()} Now: {step.describe()}")
        elif _own(before[id]) != _own(step):
            found.append(f"Changed: {step.describe()}")
    found += [f"Gone: {step.describe()}" for id, step in before.items() if id not in after]
    kept = [id for id in after if id in before]
    if kept != [id for id in before if id in after]:
        found.append("Lines that stayed stand in another order.")
    return found


def _lines(workflow: Workflow) -> dict[str, Step]:
    return {step.id: step for step in walk(workflow.steps)}


def _own(step: Step) -> object:
    """The step without what stands in its lanes, whose lines are compared by themselves."""
    data = step.model_dump()
    for lane in data.get("lanes", ()):
        lane.pop("steps")
    return data
