"""What changed between two versions of a workflow, in sentences and side by side."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Any, Literal

from bluffside.core.channel_kinds.email import EmailMessage
from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.document_part import declared, said_of
from bluffside.core.messages.merge import readable
from bluffside.core.steps.base import Step
from bluffside.core.words import several
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
        found += [
            f"No longer leaves {trigger.describe()}." for trigger in old.leaves_on if trigger not in new.leaves_on
        ]
        found += [f"Now leaves {trigger.describe()}." for trigger in new.leaves_on if trigger not in old.leaves_on]
    if old.aim != new.aim:
        found.append(f"Now reaches its aim {new.aim.describe()}." if new.aim else "Has no aim any more.")
    if old.hours != new.hours:
        found.append(f"Now sends {new.hours.describe()}." if new.hours else "Now sends at any hour.")
    if old.description != new.description:
        found.append("Is described in other words.")
    if old.scenarios != new.scenarios:
        found += _scenarios(old, new)
    for id, step in after.items():
        if id not in before:
            found.append(f"New: {step.describe()}")
        elif before[id].describe() != step.describe():
            found.append(f"Was: {before[id].describe()} Now: {step.describe()}")
        elif changed := _changed(before[id], step):
            found.append(f"Changed ({several(changed)}): {step.describe()}")
    found += [f"Gone: {step.describe()}" for id, step in before.items() if id not in after]
    kept = [id for id in after if id in before]
    if kept != [id for id in before if id in after]:
        found.append("Lines that stayed stand in another order.")
    return found


def _scenarios(old: Workflow, new: Workflow) -> list[str]:
    before, after = {one.name: one for one in old.scenarios}, {one.name: one for one in new.scenarios}
    said = [f"New scenario: “{name}”." for name in after if name not in before]
    said += [f"Scenario “{name}” has changed." for name, one in after.items() if name in before and before[name] != one]
    return said + [f"Scenario “{name}” is gone." for name in before if name not in after] or [
        "Scenarios are reordered."
    ]


def _lines(workflow: Workflow) -> dict[str, Step]:
    return {step.id: step for step in walk(workflow.steps)}


def _changed(before: Step, after: Step) -> list[str]:
    """What the parts that differ are called; of lanes, what stands in them is compared by itself."""
    if type(before) is not type(after):
        return ["kind"]
    old, new = _own(before), _own(after)
    return [_label(type(after), field) for field in new if old[field] != new[field]]


def _own(step: Step) -> dict[str, Any]:
    data = step.model_dump()
    for lane in data.get("lanes", ()):
        lane.pop("steps")
    return data


def _label(kind: type[Step], field: str) -> str:
    return str(declared(kind, field).get("label", field.replace("_", " ")))


# ---- side by side


@dataclass(frozen=True, slots=True)
class PartChange:
    """A part that differs, in words: what it is called, and what it says in each version."""

    label: str
    old: str
    new: str


@dataclass(frozen=True, slots=True)
class Row:
    """One line of two versions beside each other: its sentence, or the heading of a lane, in each; empty where it is
    not. `depth`: how many lanes it stands in; `parts`: what of a changed line differs."""

    id: str
    depth: int
    is_lane: bool
    old: str
    new: str
    state: Literal["same", "changed", "new", "gone"]
    parts: list[PartChange]


def side_by_side(old: Workflow, new: Workflow) -> list[Row]:
    """Both scripts aligned by the ids of their lines; a line that stands elsewhere now is gone there and new here."""
    before, after = list(_flat(old.steps)), list(_flat(new.steps))
    matched = SequenceMatcher(None, [one[0] for one in before], [one[0] for one in after], autojunk=False)
    rows: list[Row] = []
    for _, i, end, j, last in matched.get_opcodes():
        if end - i == last - j and [one[0] for one in before[i:end]] == [one[0] for one in after[j:last]]:
            for (id, depth, was, one), (_, _, said, other) in zip(before[i:end], after[j:last], strict=True):
                changes = list(_part_changes(one, other)) if one and other else []
                changed = bool(changes) or was != said
                rows.append(Row(id, depth, one is None, was, said, "changed" if changed else "same", changes))
            continue
        rows += [Row(id, depth, step is None, was, "", "gone", []) for id, depth, was, step in before[i:end]]
        rows += [Row(id, depth, step is None, "", said, "new", []) for id, depth, said, step in after[j:last]]
    return rows


def _flat(steps: Sequence[Step], depth: int = 0) -> Iterator[tuple[str, int, str, Step | None]]:
    """Lines and, without a step, the headings of lanes: id, depth, words."""
    for step in steps:
        yield step.id, depth, step.describe(), step
        for lane in step.lanes_below():
            yield lane.id, depth + 1, lane.heading(), None
            yield from _flat(lane.steps, depth + 1)


def _part_changes(before: Step, after: Step) -> Iterator[PartChange]:
    if type(before) is not type(after):
        return
    for field in type(after).model_fields:
        old, new = getattr(before, field), getattr(after, field)
        if field == "lanes" or old == new:
            continue
        label = _label(type(after), field)
        if isinstance(old, Wording) and isinstance(new, Wording):
            yield from _wording_changes(old, new)
        else:
            yield PartChange(label, _in_words(before, field), _in_words(after, field))


def _wording_changes(old: Wording, new: Wording) -> Iterator[PartChange]:
    others = ["\n".join(readable(one.body) for one in wording.others) for wording in (old, new)]
    for label, was, now in (
        ("name", old.name, new.name),
        ("subject", readable(old.heading), readable(new.heading)),
        ("words", readable(old.body), readable(new.body)),
        ("other wordings", *others),
        ("shares", *map(_shares, (old, new))),
        ("head", *map(_head, (old, new))),
    ):
        if was != now:
            yield PartChange(label, was, now)


def _shares(wording: Wording) -> str:
    """In which shares they are read; empty where they take turns."""
    shares = [wording.share, *(one.share for one in wording.others)]
    return ":".join(map(str, shares)) if wording.by_share and wording.others else ""


def _head(wording: Wording) -> str:
    return wording.head.describe() if isinstance(wording, EmailMessage) else ""


def _in_words(step: Step, field: str) -> str:
    value = getattr(step, field)
    if isinstance(value, Wording):
        return readable(value.body)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return said_of(step, field)
