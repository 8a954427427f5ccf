"""Carrying out a mend that a check offers: the workflow as it would be after it."""

from collections.abc import Callable
from typing import Any

from bluffside.core.steps.base import Mend
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.files import parse_workflow, to_data

Data = dict[str, Any]


class NoSuchLine(LookupError):
    """The line a mend is about is not in the workflow any more."""


def mended(workflow: Workflow, step: str, mend: Mend, new_id: str) -> Workflow:
    """The workflow with the mend made at a line; a line that is put in gets `new_id`. Raises NoSuchLine, and
    files.BadFile when what comes out is not a workflow."""
    data = to_data(workflow)
    if mend.do == "set_workflow":
        data[mend.path] = mend.value
    else:
        _at(data["steps"], step, lambda run, index: _change(run, index, mend, new_id))
    return parse_workflow(data)


def _change(run: list[Data], index: int, mend: Mend, new_id: str) -> None:
    if mend.do == "remove":
        del run[index]
    elif mend.do == "remove_lane":
        run[index]["lanes"] = [lane for lane in run[index]["lanes"] if lane["id"] != mend.path]
    elif mend.do == "insert_before":
        run.insert(index, {**mend.value, "id": new_id})
    else:
        part: Data = run[index]
        *outer, last = mend.path.split(".")
        for name in outer:
            part = part[name]
        part[last] = mend.value


def _at(run: list[Data], id: str, do: Callable[[list[Data], int], None]) -> None:
    """Finds a line in a run or in its lanes, and has something done there."""

    def found(run: list[Data]) -> bool:
        for index, step in enumerate(run):
            if step["id"] == id:
                do(run, index)
                return True
            if any(found(lane["steps"]) for lane in step.get("lanes", ())):
                return True
        return False

    if not found(run):
        raise NoSuchLine(f"there is no line “{id}” in this workflow")
