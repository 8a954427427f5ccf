"""Weights that are learned, against published ones, and data made with known ones."""

import numpy as np
import pytest
import statsmodels.api as sm

from bluffside.core.statistics.learned_points import Learned, Row, TooFew, fit, learn

RULES = ("clicks", "replies", "books", "lives there")
WORTH = (10.0, 20.0, 25.0, 5.0)


def made(people: int, weights: tuple[float, ...], seed: int = 3) -> list[Row]:
    """Two landmarks a person; the outcome comes with the chance that the weights say."""
    random, rows = np.random.default_rng(seed), []
    for person in range(people):
        times = random.poisson((1.0, 0.6, 0.4, 0.5)).astype(float)
        for _ in range(2):
            chance = 1 / (1 + np.exp(2.0 - times @ np.array(weights)))
            rows.append(Row(person, tuple(times * np.array(WORTH)), bool(random.random() < chance)))
    return rows


def test_without_a_penalty_it_finds_the_published_coefficients_of_spector_and_mazzeo() -> None:
    """L. Spector and M. Mazzeo, Journal of Economic Education 11, 1980, as in W. Greene, Econometric Analysis, table of the logit
    example (values from memory; statsmodels, which ships the data, is asked as well)."""
    data = sm.datasets.spector.load_pandas()
    found = fit(data.exog.to_numpy(), data.endog.to_numpy(), None)
    assert [*found.coef_[0], *found.intercept_] == pytest.approx([2.826, 0.0952, 2.379, -13.021], abs=2e-3)
    theirs = sm.Logit(data.endog, sm.add_constant(data.exog, prepend=False)).fit(disp=0).params
    assert [*found.coef_[0], *found.intercept_] == pytest.approx(list(theirs), abs=1e-3)


def test_known_weights_are_found_again_on_the_scale_of_the_points() -> None:
    found = learn(RULES, WORTH, made(1_500, (0.3, 1.0, 1.5, 0.0)))
    assert isinstance(found, Learned) and not found.refused
    assert sum(map(abs, found.points.values())) == pytest.approx(sum(WORTH))
    assert found.points["replies"] / found.points["books"] == pytest.approx(1.0 / 1.5, rel=0.25)
    assert abs(found.points["lives there"]) < 0.1 * found.points["books"]
    assert found.learned.auc.low < found.learned.auc.value < found.learned.auc.high and found.learned.auc.low > 0.6
    assert found.learned.lift.value > 1.2 and found.held_back == pytest.approx(375, abs=2)
    assert sum(low <= said <= high for said, low, high in ((s, c.low, c.high) for s, c in found.calibration)) >= 4


def test_what_tells_the_outcome_is_refused_and_too_few_are_not_learned_from() -> None:
    rows = [Row(one.person, (*one.brought, 30.0 * one.reached), one.reached) for one in made(400, (0.3, 1.0, 1.5, 0.0))]
    found = learn((*RULES, "has paid"), (*WORTH, 30.0), rows)
    assert isinstance(found, Learned) and set(found.refused) == {"has paid"} and "has paid" not in found.points
    few = learn(RULES, WORTH, made(60, (0.3, 1.0, 1.5, 0.0)))
    assert isinstance(few, TooFew) and few.needed == 40 and few.more == 40 - few.reached > 0


def test_hand_set_rules_are_measured_on_the_same_people_and_luck_is_not_sold_as_skill() -> None:
    blind = learn(RULES, WORTH, made(600, (0.0, 0.0, 0.0, 0.0), seed=5))
    assert isinstance(blind, Learned)
    assert blind.learned.auc.low < 0.5 < blind.learned.auc.high or abs(blind.learned.auc.value - 0.5) < 0.08
    turned = learn(RULES, (10.0, 20.0, -25.0, 5.0), [Row(r.person, (r.brought[0], r.brought[1], -r.brought[2], r.brought[3]), r.reached) for r in made(1_000, (0.3, 1.0, 1.5, 0.0))])  # fmt: skip
    assert isinstance(turned, Learned)
    assert turned.points["books"] > 0 and turned.better.low > 0, "points with the wrong sign are found out"
