"""Learning: limits, the reference library's least squares, and intervals that hold."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy import stats

from aplomb.core.base.errors import AplombError
from aplomb.core.trials.learning import (
    LIFT,
    PlainTrial,
    Prior,
    check_trials,
    features,
    learn,
    predict,
)

FLAT = Prior((0.0,) * 7, (1e6,) * 7, 1e-6, 1.0, 1e-9)


def some(n, seed=1, bakers=("a", "b")):
    rng = np.random.default_rng(seed)
    return [
        PlainTrial(float(np.exp(rng.uniform(1.0, 3.4))), float(rng.uniform(20, 140)),
              float(rng.uniform(180, 220)), bakers[int(rng.integers(len(bakers)))])
        for _ in range(n)
    ]  # fmt: skip


def test_without_a_prior_it_is_least_squares():
    """Against NumPy's own least squares on the same columns."""
    trials = some(60, bakers=("",))
    y = np.random.default_rng(2).normal(4, 1, 60)
    found = learn(list(zip(trials, y, strict=True)), FLAT)
    reference, *_ = np.linalg.lstsq(features(trials, ()), y, rcond=None)
    assert found.belief.mean[:7] == pytest.approx(reference, abs=1e-3)


def test_a_mean_alone_is_student_s_interval_for_a_new_one():
    """With only an intercept free, the interval for a new observation: SciPy's t."""
    prior = Prior((0.0,) * 7, (1e6, *(1e-9,) * 6), 1e-9, 1.0, 1e-9)
    trials = [PlainTrial(10.0, 60.0, 200.0, "")] * 12
    y = np.random.default_rng(3).normal(4, 0.5, 12)
    (told,) = predict(learn(list(zip(trials, y, strict=True)), prior), trials[:1], 0.9, prior)
    half = stats.t.ppf(0.95, 12) * math.sqrt(np.var(y) * (1 + 1 / 12))
    assert told.mean == pytest.approx(y.mean(), abs=1e-6)
    assert told.high - told.mean == pytest.approx(half, rel=1e-3)


def test_nothing_known_is_what_was_recalled():
    found = learn([])
    (told,) = predict(found, [PlainTrial(10.0, 60.0, 200.0, "x")])
    assert told.mean == pytest.approx(LIFT.mean[0])
    assert told.high - told.low > 4  # and very unsure
    assert found.n == 0


def test_one_trial_says_a_little():
    before = predict(learn([]), [PlainTrial(10.0, 60.0, 200.0, "a")])[0]
    after = predict(
        learn([(PlainTrial(10.0, 60.0, 200.0, "a"), 6.0)]), [PlainTrial(10, 60, 200, "a")]
    )[0]
    assert before.mean < after.mean < 6.0
    assert after.high - after.low < before.high - before.low


def test_trials_without_an_outcome_count_for_nothing():
    trials = [(t, 4.0 + i % 3) for i, t in enumerate(some(9))]
    with_gaps = [*trials, *((t, None) for t in some(5, seed=9))]
    ask = some(3, seed=4)
    assert predict(learn(trials), ask) == predict(learn(with_gaps), ask)


@given(st.permutations(range(12)))
def test_the_order_of_the_trials_does_not_matter(order):
    trials = [(t, 3.0 + i % 4) for i, t in enumerate(some(12, bakers=("a",)))]
    ask = some(2, seed=5, bakers=("a",))
    one = predict(learn(trials), ask)
    other = predict(learn([trials[i] for i in order]), ask)
    for a, b in zip(one, other, strict=True):
        assert (a.mean, a.low) == pytest.approx((b.mean, b.low), rel=1e-9)


def bakery(rng):
    """A bakery made at random: its own best leaf, slopes, bakers and scatter."""
    true = np.array(LIFT.mean) + rng.normal(size=7) * np.array(LIFT.spread)
    own = {name: rng.normal() * LIFT.baker for name in ("a", "b")}
    scatter = LIFT.scatter * math.sqrt(LIFT.weight / rng.chisquare(LIFT.weight))

    def outcome(trials):
        mean = features(trials, ()) @ true + np.array([own[t.baker] for t in trials])
        return mean + rng.normal(size=len(trials)) * scatter

    return outcome


@pytest.mark.parametrize("n", [8, 15, 40])
@pytest.mark.parametrize("level", [0.8, 0.95])
def test_intervals_hold_as_often_as_they_say(n, level):
    """200 simulated bakeries, one new trial each: within binomial error (3 standard deviations)."""
    rng = np.random.default_rng(100 * n + round(100 * level))
    hits = 0
    for i in range(200):
        outcome = bakery(rng)
        trials = some(n, seed=1000 * n + i)
        learned = learn(list(zip(trials, outcome(trials), strict=True)))
        ask = some(1, seed=77_000 + i)
        (told,) = predict(learned, ask, level)
        hits += told.low <= float(outcome(ask)[0]) <= told.high
    error = 3 * math.sqrt(level * (1 - level) / 200)
    assert abs(hits / 200 - level) <= error


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"lift": 0.0}, "lift"), ({"lift": 50.0}, "lift"), ({"fat_leaf_um": -1.0}, "fat_leaf_um"),
        ({"bake_c": float("nan")}, "bake_c"), ({"chill_min": 1e9}, "chill_min"),
    ],
)  # fmt: skip
def test_what_cannot_be_learned_from_is_named(change, words):
    trial, lift = PlainTrial(10.0, 60.0, 200.0, "a"), change.pop("lift", 4.0)
    with pytest.raises(AplombError, match=rf"trials\[0\]\.{words}"):
        check_trials([(replace(trial, **change), lift)], [], 0.95)


def test_a_level_is_between_none_and_all():
    with pytest.raises(AplombError, match="level"):
        check_trials([], [], 1.0)
