"""Points learned from what became of people, beside those set by hand, with how good both are. Nothing is applied."""

from ninja import Path, Router, Schema

from bluffside.core.statistics.learned_points import Estimate, Learned, Quality, TooFew
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount
from bluffside.server.scores.learning import Outcome, lesson
from bluffside.server.scores.recounting import at_hand
from bluffside.server.throttled_cache import lately

router = Router(tags=["scores"], auth=InAccount())
SHORTEST, LONGEST = 7, 365  # days


class EstimateOut(Schema):
    value: float
    low: float
    high: float


class QualityOut(Schema):
    """On people held back. `auc`: of two people, one who reached it and one who did not, how often the first stands higher; `lift`: how
    many times more of the best fifth reach it than of all."""

    auc: EstimateOut
    lift: EstimateOut


class LearnedRuleOut(Schema):
    """`learned`: None where it is not learned from, for what reason `refused` says."""

    name: str
    by_hand: float
    learned: float | None
    refused: str


class CalibrationOut(Schema):
    said: float
    came: EstimateOut


class LearnedOut(Schema):
    """`more`: so many more people with the outcome, or without it, are needed; 0: enough."""

    outcome: Outcome
    horizon: int
    more: int
    reached: int
    people: int
    held_back: int
    rules: list[LearnedRuleOut]
    learned: QualityOut | None
    by_hand: QualityOut | None
    better: EstimateOut | None
    calibration: list[CalibrationOut]


@router.get("score/learned", response=LearnedOut)
def learned(
    request: AccountRequest, account: Path[str], outcome: Outcome = "booked", horizon: int = 30, of: str = ""
) -> LearnedOut:
    """Of a score ("" is the lead score), by the rules of the draft where there is one, else those that count."""
    own = request.account
    hand = at_hand(own)
    rules = hand.rules.of(of)
    horizon = min(max(horizon, SHORTEST), LONGEST)
    key = ("learned", own.pk, of[:40], hand.said, outcome, horizon)
    one = lately(key, lambda: lesson(own, rules, outcome, horizon, clock.now()))
    found = one.found
    points = found.points if isinstance(found, Learned) else {}
    refused = one.refused | (
        {name: f"it tells the outcome almost by itself (AUC {auc:.2f})" for name, auc in found.refused.items()}
        if isinstance(found, Learned)
        else {}
    )
    by_hand = {rule.name: rule.points for rule in rules.all}
    return LearnedOut(
        outcome=outcome, horizon=horizon,
        more=found.more if isinstance(found, TooFew) else 0, reached=found.reached if isinstance(found, TooFew) else 0,
        people=found.people if isinstance(found, Learned) else 0,
        held_back=found.held_back if isinstance(found, Learned) else 0,
        rules=[
            LearnedRuleOut(name=name, by_hand=set_, learned=points.get(name), refused=refused.get(name, ""))
            for name, set_ in by_hand.items()
        ],
        learned=_quality(found.learned) if isinstance(found, Learned) else None,
        by_hand=_quality(found.by_hand) if isinstance(found, Learned) else None,
        better=_estimate(found.better) if isinstance(found, Learned) else None,
        calibration=[
            CalibrationOut(said=said, came=EstimateOut(value=came.value, low=came.low, high=came.high))
            for said, came in (found.calibration if isinstance(found, Learned) else [])
        ],
    )  # fmt: skip


def _estimate(one: Estimate) -> EstimateOut:
    return EstimateOut(value=one.value, low=one.low, high=one.high)


def _quality(one: Quality) -> QualityOut:
    return QualityOut(auc=_estimate(one.auc), lift=_estimate(one.lift))
