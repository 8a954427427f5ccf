"""Touches, counted while writing: how often a workflow speaks to one person at the most.

Lanes are alternatives, so the fullest counts; the lane of a loop counts as often as it is gone through.
"""

from collections import Counter
from collections.abc import Sequence

from bluffside.core.steps.base import Step
from bluffside.core.steps.repeat import Repeat


def touches_of(steps: Sequence[Step]) -> Counter[str]:
    """The most touches of each kind that one person can get. Lanes may be fullest in different kinds, so together
    these can be more than anybody gets (see `most_touches`)."""
    total: Counter[str] = Counter()
    for step in steps:
        total[step.speaks] += bool(step.speaks)
        fullest: Counter[str] = Counter()
        for lane in step.lanes_below():
            fullest |= touches_of(lane.steps)
        total += Counter({kind: _times(step) * count for kind, count in fullest.items()})
    return total


def most_touches(steps: Sequence[Step]) -> int:
    """The most touches of all kinds together that one person can get."""
    return sum(
        bool(step.speaks) + _times(step) * max((most_touches(lane.steps) for lane in step.lanes_below()), default=0)
        for step in steps
    )


def _times(step: Step) -> int:
    return step.times if isinstance(step, Repeat) else 1
