"""Points for rules, learned from what became of people: logistic regression, and how good it is on people it has not seen.

    rows      one for each person at each landmark day: what every rule had brought by then, and what became of them within the same
              horizon for all (landmarking: J. R. Anderson and others, Journal of Clinical Oncology 1, 1983)
    people    are split as persons, never rows: some to learn from, and a quarter held back
    penalty   L2, chosen by folds of the people that are learned from (log loss)
    quality   on those held back, by drawing persons anew (a bootstrap): how well it ranks (ROC AUC), how many more of the best fifth
              reach it than of all (lift), and whether it comes as often as it is said (calibration)

A rule that by itself ranks people almost as the outcome does is refused: it tells of the outcome, not of what leads to it.

scikit-learn is imported where it is used: it takes three seconds and a hundred megabytes of each process that starts, and learning is
asked for rarely.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from bluffside.core.statistics.share import Share, share

if TYPE_CHECKING:
    from sklearn.linear_model import LogisticRegression

PENALTIES = (0.01, 0.03, 0.1, 0.3, 1.0, 3.0, 10.0)  # C of scikit-learn: the smaller, the stronger
OF_EACH_RULE = 10  # people with the outcome, and as many without: common practice in logistic regression (from memory)
TELLS_ALL = 0.97  # AUC of one rule alone
HELD_BACK = 0.25
BEST = 0.2
BINS = 5
DRAWS = 300
Array = np.ndarray[Any, np.dtype[np.float64]]


@dataclass(frozen=True, slots=True)
class Row:
    """`person`: by whom rows belong together; `brought`: by rule, in the order of the names; `reached`: the outcome, in time."""

    person: int
    brought: tuple[float, ...]
    reached: bool


@dataclass(frozen=True, slots=True)
class Estimate:
    value: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Quality:
    auc: Estimate
    lift: Estimate


@dataclass(frozen=True, slots=True)
class Learned:
    """`points`: by rule, on the scale of the hand-set ones. `better`: by how much the learned ranks better than the hand-set, in AUC.
    `calibration`: of people from least to most likely, what was said and what came."""

    points: dict[str, float]
    refused: dict[str, float]
    people: int
    held_back: int
    learned: Quality
    by_hand: Quality
    better: Estimate
    calibration: list[tuple[float, Share]]


@dataclass(frozen=True, slots=True)
class TooFew:
    """`more`: so many more people with the outcome (or without it, where these are fewer) are needed."""

    reached: int
    needed: int

    @property
    def more(self) -> int:
        return self.needed - self.reached


def fit(brought: Array, reached: Array, penalty: float | None) -> "LogisticRegression":
    """`penalty`: C; None: without any."""
    from sklearn.linear_model import LogisticRegression

    model = LogisticRegression(C=np.inf if penalty is None else penalty, max_iter=2_000, tol=1e-8)
    return model.fit(brought, reached)


def learn(names: Sequence[str], by_hand: Sequence[float], rows: Sequence[Row], seed: int = 1) -> Learned | TooFew:
    """`by_hand`: the points that each rule gives now; what it brought is counted in these."""
    from sklearn.model_selection import GroupShuffleSplit

    brought = np.array([row.brought for row in rows], dtype=float).reshape(len(rows), len(names))
    reached = np.array([row.reached for row in rows], dtype=float)
    person = np.array([row.person for row in rows])
    needed = OF_EACH_RULE * max(1, len(names))
    came = len(set(person[reached > 0]))
    fewest = min(came, len(set(person)) - came)
    if fewest < needed:
        return TooFew(fewest, needed)
    unit = np.array([one or 1.0 for one in by_hand], dtype=float)
    times = brought / unit  # how often, as it has faded: so that a coefficient is what one time is worth
    refused = {name: alone for n, name in enumerate(names) if (alone := _alone(times[:, n], reached)) >= TELLS_ALL}
    kept = [n for n, name in enumerate(names) if name not in refused and times[:, n].std() > 0]
    [(learns, back)] = GroupShuffleSplit(1, test_size=HELD_BACK, random_state=seed).split(times, reached, person)
    x, spread = times[:, kept], times[learns][:, kept].std(axis=0) if kept else np.ones(0)
    spread = np.where(spread > 0, spread, 1.0)
    penalty = _chosen(x[learns] / spread, reached[learns], person[learns])
    model = fit(x[learns] / spread, reached[learns], penalty)
    weights = np.zeros(len(names))
    weights[kept] = model.coef_[0] / spread
    said = model.predict_proba(x[back] / spread)[:, 1]
    scores = {"learned": times[back] @ weights, "by hand": brought[back].sum(axis=1)}
    found, better = _quality(scores, reached[back], person[back], seed)
    scale = np.abs(by_hand).sum() / max(np.abs(weights).sum(), 1e-12)
    return Learned(
        {name: float(weights[n] * scale) for n, name in enumerate(names) if name not in refused}, refused,
        len(set(person)), len(set(person[back])), found["learned"], found["by hand"], better,
        _calibration(said, reached[back]),
    )  # fmt: skip


def _auc(reached: Array, values: Array) -> float:
    from sklearn.metrics import roc_auc_score

    return float(roc_auc_score(reached, values))


def _alone(values: Array, reached: Array) -> float:
    found = _auc(reached, values)
    return max(found, 1 - found)


def _chosen(x: Array, reached: Array, person: Array) -> float:
    from sklearn.metrics import log_loss
    from sklearn.model_selection import GroupKFold

    folds = list(GroupKFold(min(5, len(set(person)))).split(x, reached, person))
    usable = [(learns, tries) for learns, tries in folds if 0 < reached[learns].sum() < len(learns)]

    def loss(penalty: float) -> float:
        return float(
            np.mean(
                [
                    log_loss(reached[tries], fit(x[learns], reached[learns], penalty).predict_proba(x[tries])[:, 1], labels=[0, 1])
                    for learns, tries in usable
                ]
            )
        )  # fmt: skip

    return min(PENALTIES, key=loss)


def _quality(scores: dict[str, Array], reached: Array, person: Array, seed: int) -> tuple[dict[str, Quality], Estimate]:
    random = np.random.default_rng(seed)
    people = np.unique(person)
    rows_of = {one: np.flatnonzero(person == one) for one in people}
    drawn: dict[str, list[tuple[float, float]]] = {name: [] for name in scores}
    for _ in range(DRAWS):
        some = np.concatenate([rows_of[one] for one in random.choice(people, len(people))])
        if 0 < reached[some].sum() < len(some):
            for name, score in scores.items():
                drawn[name].append((_auc(reached[some], score[some]), _lift(score[some], reached[some])))
    found = {}
    for name, score in scores.items():
        once = _auc(reached, score), _lift(score, reached)
        each = list(zip(*drawn[name], strict=True))
        found[name] = Quality(*(_between(value, several) for value, several in zip(once, each, strict=True)))
    apart = [a[0] - b[0] for a, b in zip(drawn["learned"], drawn["by hand"], strict=True)]
    return found, _between(found["learned"].auc.value - found["by hand"].auc.value, apart)


def _between(value: float, drawn: Sequence[float]) -> Estimate:
    low, high = np.percentile(drawn, [2.5, 97.5])
    return Estimate(value, float(low), float(high))


def _lift(score: Array, reached: Array) -> float:
    best = np.argsort(-score, kind="stable")[: max(1, int(len(score) * BEST))]
    return float(reached[best].mean() / reached.mean())


def _calibration(said: Array, reached: Array) -> list[tuple[float, Share]]:
    parts = np.array_split(np.argsort(said, kind="stable"), BINS)
    return [(float(said[part].mean()), share(int(reached[part].sum()), len(part))) for part in parts if len(part)]
