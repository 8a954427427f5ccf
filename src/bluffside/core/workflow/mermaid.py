"""The script as a flowchart in Mermaid's syntax, for documents: a box a line, a rhombus where the way divides.

Words go into quoted strings, in which the quotation mark and markup are written as entities
(https://mermaid.js.org/syntax/flowchart.html, "Entity codes to escape characters"; from memory).
"""

from collections.abc import Sequence

from bluffside.core.steps.base import Step
from bluffside.core.workflow.document import Workflow, walk

ESCAPED = {"#": "#35;", '"': "#quot;", "<": "#lt;", ">": "#gt;", "`": "#96;", "\n": " "}


def flowchart(workflow: Workflow) -> str:
    """Ends with a newline."""
    starts = " or ".join(start.describe() for start in workflow.starts) or "never"
    names = {step.id: f"n{number}" for number, step in enumerate(walk(workflow.steps), start=1)}
    lines = ["flowchart TD", f"    start([{_said(f'Starts {starts}')}])"]
    draw = _Drawing(names, lines)
    for loose in draw.run(workflow.steps, [("start", "")]):
        draw.join(loose, "left")
    return "\n".join([*lines, "    left([Leaves])"]) + "\n"


Loose = tuple[str, str]  # a box that leads on, and what stands on the arrow


class _Drawing:
    def __init__(self, names: dict[str, str], lines: list[str]) -> None:
        self.names = names
        self.lines = lines

    def join(self, loose: Loose, to: str) -> None:
        name, words = loose
        self.lines.append(f"    {name} -->|{_said(words)}| {to}" if words else f"    {name} --> {to}")

    def run(self, steps: Sequence[Step], reached: list[Loose]) -> list[Loose]:
        """Draws a run of lines that these lead to; answers what leads on below it."""
        for step in steps:
            name, words = self.names[step.id], _said(step.describe())
            self.lines.append(f"    {name}{{{words}}}" if step.divides else f"    {name}[{words}]")
            for loose in reached:
                self.join(loose, name)
            reached = [] if step.ends else self._below(step, name)
        return reached

    def _below(self, step: Step, name: str) -> list[Loose]:
        ends: list[Loose] = []
        for lane in step.lanes_below():
            below = self.run(lane.steps, [(name, lane.heading())])
            if step.passes:
                for loose in below:
                    self.join(loose, name)
            else:
                ends += below
        if step.passes or not step.lanes_below() or not step.covers_all():
            ends.append((name, "then" if step.lanes_below() else ""))
        return ends


def _said(words: str) -> str:
    return '"' + "".join(ESCAPED.get(letter, letter) for letter in words) + '"'
