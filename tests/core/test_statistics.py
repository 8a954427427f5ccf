"""Statistics against what others compute: lifelines, statsmodels, and data made with known answers."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from lifelines import AalenJohansenFitter, KaplanMeierFitter
from statsmodels.stats.proportion import confint_proportions_2indep, proportion_confint

from bluffside.core.statistics.added import added, people_until
from bluffside.core.statistics.compared import in_words, people_needed, so_far
from bluffside.core.statistics.said import against, marks_by_chance, out_of, said
from bluffside.core.statistics.share import Share, share
from bluffside.core.statistics.ways_to_end import reached_by, ways_to_end
from bluffside.core.statistics.worth_to_come import SURE, Likelihood, OpenDeal, worth_to_come

WAYS = ("won", "lost")


@given(st.integers(1, 5_000), st.data())
def test_wilsons_interval_is_that_of_statsmodels(of: int, data: st.DataObject) -> None:
    count = data.draw(st.integers(0, of))
    low, high = proportion_confint(count, of, method="wilson")
    ours = share(count, of)
    assert (ours.low, ours.high) == pytest.approx((low, high), abs=1e-9)


@given(st.integers(10, 3_000), st.integers(10, 3_000), st.data())
def test_newcombes_interval_is_that_of_statsmodels(of: int, other_of: int, data: st.DataObject) -> None:
    count, other = data.draw(st.integers(0, of)), data.draw(st.integers(0, other_of))
    low, high = confint_proportions_2indep(count, of, other, other_of, method="newcomb", compare="diff")
    known = added(share(count, of), share(other, other_of))
    assert known and (known.low, known.high) == pytest.approx((low, high), abs=1e-9)
    assert known.low <= known.value <= known.high


def test_newcombes_own_example() -> None:
    """R. G. Newcombe, Statistics in Medicine 17, 1998, table II, example (a), method 10: 56 of 70 against 48 of 80; from memory."""
    known = added(share(56, 70), share(48, 80))
    assert known and (known.low, known.high) == pytest.approx((0.0524, 0.3339), abs=5e-5)


@pytest.mark.parametrize(("planted", "rightly"), [(0.0, 0.95), (0.2, 0.9)])
def test_a_planted_effect_is_told_and_a_planted_nothing_is_not(planted: float, rightly: float) -> None:
    """Two thousand made-up follow-ups of 360 people, a tenth or so of them held back, of whom 20 in 100 reach it anyway (seed 975)."""
    chance, told = np.random.default_rng(975), 0
    for _ in range(2_000):
        held = chance.binomial(360, 0.25)
        with_it, without = chance.binomial(360 - held, 0.2 + planted), chance.binomial(held, 0.2)
        known = added(share(int(with_it), int(360 - held)), share(int(without), int(held)))
        assert known
        told += known.tells if planted else not known.tells
    assert told / 2_000 >= rightly - 0.01


def test_how_many_must_come_until_it_is_known_holds() -> None:
    needed = people_until(0.08, 0.3, 0.25)
    assert needed
    halves = [
        added(share(round(0.75 * n * 0.3), round(0.75 * n)), share(round(0.25 * n * 0.3), round(0.25 * n)))
        for n in (needed, needed // 2)
    ]
    enough, few = (one for one in halves if one)
    assert (enough.high - enough.low) / 2 == pytest.approx(0.08, abs=0.005)
    assert (few.high - few.low) / 2 > 0.1
    assert people_until(0.08, 0.3, 0) is None


def test_figures_are_never_bare_and_say_when_they_tell_nothing() -> None:
    assert out_of(share(61, 412), "delivered") == "61 of 412 delivered, 15 % (12 to 19)"
    assert said(share(3, 7)) == said(share(0, 0)) == "too few to tell"
    rose, same, few = (
        against(share(87, 225), share(60, 225)),
        against(share(40, 225), share(44, 225)),
        against(share(1, 4), share(9, 40)),
    )
    assert (rose.way, rose.words, rose.in_words) == ("rose", "+12 (3 to 20)", "12 more in 100 (3 to 20)")
    assert (same.way, same.words, same.in_words) == ("same", "−2 (−9 to 5)", "no more than chance does")
    assert (few.way, few.words) == ("few", "too few to tell")
    assert marks_by_chance(7) == pytest.approx(0.30, abs=0.005)


# J. Gehan 1965 after E. J. Freireich and others, Blood 21, 1963: weeks in remission under 6-mercaptopurine; 0: still in remission.
# From memory, as it stands in textbooks; lifelines is asked about the same numbers.
FREIREICH = [(6, 1), (6, 1), (6, 1), (6, 0), (7, 1), (9, 0), (10, 1), (10, 0), (11, 0), (13, 1), (16, 1), (17, 0), (19, 0), (20, 0),
             (22, 1), (23, 1), (25, 0), (32, 0), (32, 0), (34, 0), (35, 0)]  # fmt: skip


def test_with_one_way_to_end_it_is_kaplan_and_meier_on_freireichs_data() -> None:
    found = ways_to_end([(weeks, "won" if ended else "") for weeks, ended in FREIREICH], ["won"])
    fitted = KaplanMeierFitter().fit(*zip(*FREIREICH, strict=True)).survival_function_["KM_estimate"]
    assert [one.open for one in found] == pytest.approx([fitted.loc[one.at] for one in found])
    assert found[0].open == pytest.approx(0.857, abs=5e-4)  # 18 of 21
    for one in found:
        assert one.ways["won"].value == pytest.approx(1 - one.open)


@settings(deadline=None, max_examples=40)
@given(
    st.lists(
        st.tuples(st.integers(1, 400), st.sampled_from([0, 1, 2])),
        min_size=3,
        max_size=60,
        unique_by=lambda one: one[0],
    )
)
def test_ways_that_compete_are_those_of_lifelines(some: list[tuple[int, int]]) -> None:
    """No two at the same moment, since lifelines moves ties apart by chance; ours takes them as they are."""
    names = {0: "", 1: "won", 2: "lost"}
    found = ways_to_end([(days, names[how]) for days, how in some], WAYS)
    for number, way in ((1, "won"), (2, "lost")):
        if not any(how == number for _, how in some):
            assert all(one.ways[way].value == 0 for one in found)
            continue
        fitter = AalenJohansenFitter(calculate_variance=True)
        fitter.fit(*zip(*some, strict=True), event_of_interest=number)
        values, variances = fitter.cumulative_density_.iloc[:, 0], fitter.variance_
        for one in found:
            assert one.ways[way].value == pytest.approx(values.loc[: one.at].iloc[-1], abs=1e-9)
            half = 1.959964 * variances.loc[: one.at].iloc[-1] ** 0.5
            if (
                np.isfinite(half) and one.ways[way].low > 0 and one.ways[way].high < 1
            ):  # theirs is none when nobody is left
                assert (one.ways[way].high - one.ways[way].low) / 2 == pytest.approx(half, abs=1e-5)


@given(st.lists(st.tuples(st.integers(0, 30), st.sampled_from(["", *WAYS])), min_size=1, max_size=80))
def test_all_ways_and_what_is_open_add_up_to_all(some: list[tuple[int, str]]) -> None:
    found = ways_to_end([(float(days), how) for days, how in some], WAYS)
    for one in found:
        assert one.open + sum(each.value for each in one.ways.values()) == pytest.approx(1)
        assert all(
            0 <= each.low <= each.value + 1e-9 and each.value <= each.high + 1e-9 and each.high <= 1
            for each in one.ways.values()
        )
    if all(how for _, how in some):  # nothing is open: the plain shares
        assert found[-1].ways["won"].value == pytest.approx(sum(how == "won" for _, how in some) / len(some))
    assert reached_by(found, -1) is None and (not found or reached_by(found, 99) == found[-1])


@settings(deadline=None, max_examples=30)
@given(
    st.lists(
        st.tuples(st.sampled_from(["2026-03", "2026-04", ""]), st.sampled_from("ABC"), st.integers(0, 900)), max_size=40
    )
)
def test_worth_times_likelihood_adds_up_over_the_months(some: list[tuple[str, str, int]]) -> None:
    chances = {"A": Likelihood(0.25), "B": Likelihood(None, 30, 40)}  # of C nothing is known
    found = worth_to_come([OpenDeal(*one) for one in some], chances, draws=200)
    known = [one for one in some if one[1] != "C"]
    if not known:
        assert found == {}
        return
    assert found["all"].likely == pytest.approx(sum({"A": 0.25, "B": 0.75}[stage] * worth for _, stage, worth in known))
    months = [one for month, one in found.items() if month != "all"]
    assert sum(one.likely for one in months) == pytest.approx(found["all"].likely)
    assert sum(one.deals for one in months) == found["all"].deals == len(known)
    assert all(0 <= one.low <= one.high <= one.open + 1e-9 for one in found.values())


def test_the_range_holds_what_comes_as_often_as_it_says_and_is_wide_where_little_is_known() -> None:
    random = np.random.default_rng(7)
    held = 0
    for seed in range(150):
        won = int(random.binomial(60, 0.4))
        deals = [OpenDeal("2026-03", "A", float(worth)) for worth in random.integers(50, 500, 40)]
        brings = sum(one.worth for one in deals if random.random() < 0.4)
        found = worth_to_come(deals, {"A": Likelihood(None, won, 60)}, draws=400, seed=seed)["all"]
        held += found.low <= brings <= found.high
    assert SURE - 10 <= held / 1.5 <= SURE + 10  # of 150, so about 3 of a hundred either way by chance alone
    few, much = (worth_to_come(deals, {"A": Likelihood(None, n // 2, n)})["all"] for n in (4, 4_000))
    assert few.high - few.low > 1.5 * (much.high - much.low)
    assert worth_to_come(deals, {"A": Likelihood(1.0)})["all"].low == pytest.approx(sum(one.worth for one in deals))


SEED, HISTORIES, A_DAY, DAYS = 20, 1_000, 10, 200


def looked_at_daily(usual: float, other: float, part: float) -> list[tuple[int, bool]]:
    """Made-up histories with a look each day: after how many people it was said of one of the two that it is larger, and whether of
    the second; nothing of those where it never was."""
    random = np.random.default_rng(SEED)
    of_second = random.binomial(A_DAY, part, (HISTORIES, DAYS))
    reached = [random.binomial(A_DAY - of_second, usual), random.binomial(of_second, other)]
    of = [(A_DAY - of_second).cumsum(axis=1), of_second.cumsum(axis=1)]
    count = [one.cumsum(axis=1) for one in reached]
    told = []
    for history in range(HISTORIES):
        for day in range(5, DAYS):
            first, second = (Share(int(count[n][history, day]), int(of[n][history, day]), 0, 1) for n in (0, 1))
            known = so_far(first, second)
            if known and known.tells:
                told.append(((day + 1) * A_DAY, known.value > 0))
                break
    return told


@pytest.mark.parametrize(("usual", "part"), [(0.02, 0.5), (0.1, 0.1), (0.3, 0.5)])
def test_looking_every_day_finds_a_difference_where_there_is_none_in_at_most_5_of_100(
    usual: float, part: float
) -> None:
    assert len(looked_at_daily(usual, usual, part)) / HISTORIES <= 0.05


def test_a_planted_difference_is_told_rightly_by_half_of_all_once_as_many_have_come_as_was_foretold() -> None:
    told = looked_at_daily(0.2, 0.32, 0.5)
    assert len(told) / HISTORIES > 0.95 and all(second for _, second in told)
    needed = people_needed(0.2, 0.12)
    assert needed and 0.4 < sum(people <= needed for people, _ in told) / HISTORIES < 0.7
    assert people_needed(0.2, 0.0001) is None


def test_what_is_known_of_two_is_said_in_words() -> None:
    assert in_words(share(3, 30), share(9, 30), "answered") == "too few to tell"
    assert in_words(share(40, 400), share(84, 400), "answered") == "11 in 100 more answered (3 to 19)"
    assert in_words(share(84, 400), share(40, 400), "answered") == "11 in 100 fewer answered (3 to 19)"
    unsure = in_words(share(40, 200), share(44, 200), "answered")
    assert unsure.startswith("nobody can tell yet: between ") and "a difference of 10 in 100 takes " in unsure
