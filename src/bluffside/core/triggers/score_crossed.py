"""Score crossed: a score rises to a mark, or falls below it."""

from typing import Literal

from bluffside.core.conditions import Condition, ScoreTest
from bluffside.core.conditions.base import HowMany
from bluffside.core.document_part import part
from bluffside.core.events import Event
from bluffside.core.triggers.base import Trigger


class ScoreCrossed(Trigger):
    label = "when the score passes a mark"
    sentence = "when the {score} {way} {mark}"
    listens_to = ("score.changed",)

    kind: Literal["score_crossed"] = "score_crossed"
    way: Literal["rises_to", "falls_below"] = part("choice", "rises or falls", default="rises_to")
    mark: float = part("count", "mark", default=50, ge=-1_000_000, le=1_000_000)
    score: str = part("score", "which score", empty="score", default="", max_length=40)

    def fits(self, event: Event) -> bool:
        if not super().fits(event) or event.subject != self.score:
            return False
        return self.crossed(float(event.data.get("old", 0)), float(event.data.get("new", 0)))

    def crossed(self, old: float, new: float) -> bool:
        return old < self.mark <= new if self.way == "rises_to" else new < self.mark <= old

    def already(self) -> Condition | None:
        compare: HowMany = "at_least" if self.way == "rises_to" else "fewer_than"
        return ScoreTest(compare=compare, points=self.mark, score=self.score)
