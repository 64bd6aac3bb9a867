"""Tasting: exact tails against SciPy, and servings that give nothing away."""

import itertools
from collections import Counter

import numpy as np
import pytest
from scipy import stats

from aplomb.core.base.errors import FormulaError
from aplomb.core.trials.tasting import preference, servings, tasters_needed, triangle


@pytest.mark.parametrize(("first", "second"), [(9, 1), (5, 5), (12, 4), (1, 0), (40, 61)])
def test_preference_is_the_exact_binomial_test(first, second):
    """Against SciPy's two-sided binomial test."""
    reference = stats.binomtest(first, first + second, 0.5).pvalue
    assert preference(first, second).chance == pytest.approx(reference)


def test_the_least_for_a_preference_is_the_first_that_is_rare_enough():
    for n in (5, 6, 10, 23, 40):
        least = preference(n, 0, 0.05).least
        rare = [k for k in range(n + 1) if stats.binomtest(k, n, 0.5).pvalue <= 0.05 and 2 * k > n]
        assert least == (rare[0] if rare else None)


def test_tasters_needed_has_the_power_and_one_fewer_step_has_not():
    """Against SciPy's binomial tails."""
    n = tasters_needed(0.3, 0.05, 0.8)
    p = 0.3 + 0.7 / 3

    def power(m):
        least = triangle(m, 0, 0.05).least_right
        return stats.binom.sf(least - 1, m, p)

    assert power(n) >= 0.8
    assert all(power(m) < 0.8 for m in range(3, n))


def test_a_small_difference_needs_more_tasters():
    assert tasters_needed(0.5) < tasters_needed(0.3) < tasters_needed(0.2)
    assert tasters_needed(0.01) is None


@pytest.mark.parametrize("tasters", [1, 6, 7, 12, 60])
def test_servings_are_balanced_and_their_codes_differ(tasters):
    drawn = servings(tasters, np.random.default_rng(tasters))
    codes = list(itertools.chain.from_iterable(s.codes for s in drawn))
    assert len(set(codes)) == 3 * tasters
    assert all(len(c) == 3 and c.isdigit() for c in codes)
    orders = Counter((s.odd, s.odd_is_first) for s in drawn)
    assert max(orders.values()) - min([*orders.values()] + [0] * (6 - len(orders))) <= 1


@pytest.mark.parametrize(
    "act",
    [
        lambda: preference(0, 0),
        lambda: preference(-1, 3),
        lambda: preference(3, 1, 0),
        lambda: tasters_needed(0),
        lambda: tasters_needed(0.3, 2),
        lambda: servings(61, None),
    ],
)
def test_figures_that_cannot_be_are_refused(act):
    with pytest.raises(FormulaError):
        act()
