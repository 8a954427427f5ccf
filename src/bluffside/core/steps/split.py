"""Split: by share, at random once; the same contact always takes the same lane.

The lane follows from the contact and this line alone (a hash), so a rehearsal, a second pass and another
machine agree. Shares are weights: 50 and 50, or 1 and 3.
"""

from collections.abc import Iterator, Mapping, Sequence
from typing import Literal

from bluffside.core.care.pause import share_of
from bluffside.core.engine.moves import ON, Into, Move
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Fault, Lane, Step, part


class ShareLane(Lane):
    sentence = "{name} {share}"

    share: int = part("count", "share", default=50, ge=0, le=10_000)
    name: str = part("line", "name", empty="share", default="", max_length=80)

    def heading(self) -> str:
        return f"{self.name or 'share'} {self.share}"


class Split(Step):
    label = "Split"
    finds = ("split", "test", "at random", "share")
    sentence = "Splits by share."
    divides = True

    kind: Literal["split"] = "split"
    lanes: tuple[ShareLane, ...] = ()

    @classmethod
    def blank(cls) -> "Split":
        return cls(id="new", lanes=(ShareLane(id="new-1", name="A"), ShareLane(id="new-2", name="B")))

    def lanes_below(self) -> Sequence[Lane]:
        return self.lanes

    def lane_for(self, contact_id: str, workflow: str = "") -> ShareLane | None:
        """The lane this contact takes in a workflow; None when no lane has a share. By the workflow, too, so that two with
        a line of the same id (a copy, say) do not split alike."""
        total = sum(lane.share for lane in self.lanes)
        if not total:
            return None
        drawn = share_of("split", workflow, self.id, contact_id) * total
        for lane in self.lanes:
            drawn -= lane.share
            if drawn < 0:
                return lane
        return self.lanes[-1]

    def begin(self, turn: Turn) -> Move:
        lane = self.lane_for(turn.facts.contact.id, turn.workflow)
        if lane is None:
            turn.because("No lane has a share, so it goes on below.")
            return ON
        total = sum(one.share for one in self.lanes)
        turn.because("Drawn for the lane “{}”, of {} shares.", lane.heading(), total)
        return Into(lane.id)

    def covers_all(self) -> bool:
        return any(lane.share for lane in self.lanes)

    def dead_lanes(self) -> Mapping[str, str]:
        return {lane.id: "its share is 0" for lane in self.lanes if not lane.share}

    def faults(self) -> Iterator[Fault]:
        if not self.covers_all():
            yield Fault("no-lanes", "error", "There is nothing to split between yet.")
