"""Pairs and triangles against the reference library and tables."""

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy import stats

from aplomb.core.base.errors import AplombError
from aplomb.core.trials.comparing import compare, compare_apart
from aplomb.core.trials.tasting import tail, triangle

ROUNDED = 0.41
"""Over this the scatter is not that of rounding, even to whole numbers: sqrt(2 / 12)."""
PAIRS = st.lists(st.tuples(st.floats(0.5, 9), st.floats(0.5, 9)), min_size=2, max_size=30)


@given(PAIRS)
def test_the_interval_is_the_paired_t_interval(pairs):
    """Against SciPy's ttest_rel."""
    first, second = np.array(pairs).T
    assume(np.std(second - first, ddof=1) > ROUNDED)
    reference = stats.ttest_rel(second, first).confidence_interval(0.95)
    found = compare(pairs, 0.3)
    assert found.difference == pytest.approx(float((second - first).mean()), abs=1e-9)
    assert (found.low, found.high) == pytest.approx((reference.low, reference.high), abs=1e-7)


def test_one_pair_and_two_alike_pairs_say_nothing():
    assert compare([(3.0, 3.0)], 0.5).verdict == "not_enough"
    two = compare([(3.0, 3.01), (3.2, 3.2)], 0.5)
    assert two.verdict == "not_enough"
    assert two.more >= 1


@pytest.mark.parametrize(
    ("reading", "low", "verdict"), [(3.0, -1.014, "not_enough"), (3.2, -0.1014, "alike")]
)
def test_readings_that_agree_are_no_surer_than_they_were_written(reading, low, verdict):
    """By hand: half-width 4.303 · d · sqrt(2 / 12 / 3), d the last place, 1 and 0.1."""
    found = compare([(reading, reading)] * 3, 0.3)
    assert (found.low, found.high) == pytest.approx((low, -low), abs=5e-4)
    assert found.verdict == verdict


def test_groups_that_agree_are_no_surer_than_they_were_written():
    """By hand: 4 degrees of freedom, 2.776 · 0.1 · sqrt(2 / 12 / 3)."""
    found = compare_apart([3.5] * 3, [3.9] * 3, 0.3)
    assert found.high - found.difference == pytest.approx(0.06544, abs=1e-4)
    assert found.verdict == "different"


def test_verdicts_by_hand():
    assert compare([(3.0, 4.0), (3.1, 4.2), (2.9, 3.8), (3.0, 4.1)], 0.5).verdict == "different"
    assert compare([(3.0, 3.02), (3.1, 3.1), (2.9, 2.88), (3, 3.01)], 0.5).verdict == "alike"
    wide = compare([(3.0, 4.0), (3.1, 2.2), (2.9, 3.8), (3.0, 2.6)], 0.5)
    assert wide.verdict == "not_enough"
    assert wide.more > 4


def test_a_difference_too_small_to_matter_is_alike_however_sure_it_is():
    pairs = [(3.0 + i / 100, 3.1 + i / 100 + (i % 2) / 1000) for i in range(12)]
    assert compare(pairs, 0.5).verdict == "alike"


@given(PAIRS, st.floats(0.1, 2))
def test_as_many_more_as_are_told_would_do_and_one_less_would_not(pairs, matters):
    found = compare(pairs, matters)
    if not found.more or found.more > 5000:
        return
    scatter = float(np.std([b - a for a, b in pairs], ddof=1))
    assume(scatter > ROUNDED)

    def half(n):
        return stats.t.ppf(0.975, n - 1) * scatter / math.sqrt(n)

    n = len(pairs) + found.more
    assert half(n) <= matters * (1 + 1e-9)
    if found.more > 1 and n > 3:
        assert half(n - 1) > matters * (1 - 1e-9)


@pytest.mark.parametrize(
    ("pairs", "matters", "words"),
    [
        ([], 0.5, "pairs"),
        ([(1, 2)], 0.0, "matters"),
        ([(1, 2)], float("nan"), "matters"),
        ([(1, 2), (math.nan, 2)], 0.5, r"pairs\[1\]\.first"),
    ],
)
def test_what_cannot_be_compared_is_named(pairs, matters, words):
    with pytest.raises(AplombError, match=words):
        compare(pairs, matters)


# Least right answers at 5 %: the table of ISO 4120 (and of every handbook of sensory analysis).
TABLE = [
    (6, 5),
    (7, 5),
    (8, 6),
    (9, 6),
    (10, 7),
    (12, 8),
    (15, 9),
    (18, 10),
    (20, 11),
    (24, 13),
    (30, 15),
    (36, 18),
    (48, 22),
]


@pytest.mark.parametrize(("tasters", "least"), TABLE)
def test_the_least_right_answers_are_those_of_the_table(tasters, least):
    assert triangle(tasters, 0).least_right == least


@given(st.integers(1, 400), st.data())
def test_the_tail_is_the_binomial_s(tasters, data):
    """Against SciPy's binom.sf."""
    right = data.draw(st.integers(0, tasters))
    assert tail(tasters, right) == pytest.approx(stats.binom.sf(right - 1, tasters, 1 / 3))


@given(st.integers(1, 300), st.sampled_from([0.2, 0.05, 0.01, 0.001]))
def test_the_least_is_the_least(tasters, alpha):
    least = triangle(tasters, 0, alpha).least_right
    if least is None:
        assert tail(tasters, tasters) > alpha
        return
    assert tail(tasters, least) <= alpha
    assert least == 0 or tail(tasters, least - 1) > alpha


def test_two_tasters_can_show_nothing():
    assert triangle(2, 2).least_right is None


@pytest.mark.parametrize(
    ("tasters", "right", "alpha"), [(0, 0, 0.05), (5, 6, 0.05), (5, -1, 0.05), (5, 5, 0), (5, 5, 2)]
)
def test_a_test_that_cannot_be_is_refused(tasters, right, alpha):
    with pytest.raises(AplombError):
        triangle(tasters, right, alpha)


@pytest.mark.parametrize("seed", range(4))
def test_two_groups_are_welch_s_interval(seed):
    """Against SciPy's own."""
    rng = np.random.default_rng(seed)
    first, second = rng.normal(4, 0.4, 5 + seed), rng.normal(4.6, 0.9, 9 - seed)
    told = compare_apart(first, second, 0.5)
    reference = stats.ttest_ind(second, first, equal_var=False).confidence_interval(0.95)
    assert (told.low, told.high) == pytest.approx((reference.low, reference.high))


def test_how_many_more_of_each_group_is_what_it_takes():
    first, second = [4.0, 4.6, 3.5], [4.4, 4.1, 5.0]
    told = compare_apart(first, second, 0.3)
    assert told.verdict == "not_enough"
    scatter = math.sqrt((np.var(first, ddof=1) + np.var(second, ddof=1)) / 2)
    half = [
        stats.t.ppf(0.975, 2 * (3 + k) - 2) * scatter * math.sqrt(2 / (3 + k))
        for k in (told.more - 1, told.more)
    ]
    assert half[1] <= 0.3 < half[0]


def test_two_trials_of_each_are_never_alike():
    assert compare_apart([4.0, 4.001], [4.0, 4.001], 0.5).verdict == "not_enough"
    assert compare_apart([4.0, 4.1, 4.05], [4.02, 4.08, 4.0], 0.5).verdict == "alike"


def test_one_trial_of_a_group_says_a_difference_and_no_more():
    told = compare_apart([4.0], [5.0, 5.2], 0.5)
    assert (told.difference, told.low, told.verdict) == (pytest.approx(1.1), None, "not_enough")


@pytest.mark.parametrize("groups", [([], [1.0]), ([1.0], []), ([math.nan], [1.0])])
def test_groups_that_cannot_be_are_refused(groups):
    with pytest.raises(AplombError):
        compare_apart(*groups, 0.5)
