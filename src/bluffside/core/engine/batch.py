"""What one batch does with an enrolment: heard before sent.

A batch looks at an enrolment at one instant, its moment. In hand at that moment is all that has reached the enrolment and
that it has not heard yet: answers and whatever else its workflow listens to, in the order in which it happened. The rule:

    1. What is in hand is heard first, all of it and in its order, at the place where the person stands: before any
       time-out and before any line that is not carried out yet, also where that was due earlier. A line that speaks, and
       that one answer has led to, waits for the others: of two quick replies the clearer one counts.
    2. Who has joined and has not begun stands before the first line. They hear there what is in hand, and may leave.
    3. Then what has come due by the moment happens, at the moment.

So an answer at a limit or before it beats the limit, and nothing is sent over an answer that is there. Batches may come late,
since workers were away or have much to do: that may change a decision in this one way only. The live engine and the
rehearsal's world both take the order from here, so for the same moments they do the same.
"""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Protocol

from bluffside.core.engine.signals import Joined, Signal, TimeReached
from bluffside.core.engine.state import State

TIME = TimeReached()


class Standing(Protocol):
    """Somebody inside; `state` is as the last signal has left it."""

    state: State


def in_order(
    one: Standing, heard: Sequence[Signal], now: datetime, joined: Joined | None = None
) -> Iterator[tuple[Signal, bool]]:
    """The signals of one batch at its moment, each to be given to `advance` before the next is asked for, with whether
    more is in hand. `joined` for who has not begun."""
    if joined is not None:
        yield replace(joined, meanwhile=tuple(heard)) if heard else joined, False
    else:
        for number, signal in enumerate(heard, start=1):
            yield signal, number < len(heard)
    while (until := one.state.until) is not None and until <= now:
        yield TIME, False
