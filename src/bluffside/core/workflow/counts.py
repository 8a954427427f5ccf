"""Touches, counted while writing: how often a workflow speaks to one person at the most.

Lanes are alternatives, so the fullest counts; who leaves in a lane gets nothing of what is below; the lane of a loop counts as
often as it is gone through.
"""

from collections import Counter
from collections.abc import Callable, Sequence

from bluffside.core.steps.base import Step
from bluffside.core.steps.repeat import Repeat

Kind = Callable[[Step], str]


def touches_of(steps: Sequence[Step]) -> Counter[str]:
    """The most touches of each kind that one person can get. Ways may be fullest in different kinds, so together
    these can be more than anybody gets (see `most_touches`)."""
    return _most(steps, lambda step: step.speaks)


def most_touches(steps: Sequence[Step]) -> int:
    """The most touches of all kinds together that one person can get."""
    return _most(steps, lambda step: "any" if step.speaks else "")["any"]


def _most(steps: Sequence[Step], kind: Kind) -> Counter[str]:
    goes_on, ended = _ways(steps, kind)
    return (goes_on or Counter()) | ended


def _ways(steps: Sequence[Step], kind: Kind) -> tuple[Counter[str] | None, Counter[str]]:
    """The most on a way that goes on below the lines (None when there is none), and on one that ends among them."""
    here: Counter[str] = Counter()
    ended: Counter[str] = Counter()
    for step in steps:
        here = here + Counter([kind(step)] if kind(step) else [])
        if step.ends:
            return None, ended | here
        lanes = [_ways(lane.steps, kind) for lane in step.lanes_below()]
        if not lanes:
            continue
        times = step.times if isinstance(step, Repeat) else 1
        below = [] if step.covers_all() and not step.passes else [here]
        for goes_on, ends in lanes:
            before = here if goes_on is None else here + _times(goes_on, times - 1)
            ended |= before + ends
            if goes_on is not None:
                below.append(here + _times(goes_on, times))
        if not below:
            return None, ended
        here = below[0]
        for other in below[1:]:
            here = here | other
    return here, ended


def _times(counter: Counter[str], times: int) -> Counter[str]:
    return Counter({kind: count * times for kind, count in counter.items()})
