"""The case ``learn``: the window's own model, asked by scripts; intervals that hold."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.core.trials.model import FACTORS, LIFT, model_of
from aplomb.core.trials.trial import Piece, Trial
from aplomb.verbs.trials import AskCase, LearnCase, TrialCase, learn_case

MIDDLE = AskCase(10.0, 60.0, 200.0, "a")


def some(n, seed=1, bakers=("a", "b"), lifts=None):
    rng = np.random.default_rng(seed)
    rows = [
        (
            float(np.exp(rng.uniform(1.0, 3.4))),
            float(rng.uniform(20, 140)),
            float(rng.uniform(180, 220)),
            bakers[int(rng.integers(len(bakers)))],
        )
        for _ in range(n)
    ]
    if lifts is None:
        return tuple(AskCase(*row) for row in rows)
    return tuple(TrialCase(*row, lift) for row, lift in zip(rows, lifts(rows), strict=True))


def told(trials, ask, level=0.95):
    return learn_case(LearnCase(trials, ask, level=level)).answers


def saw(rows):
    return [3.0 + i % 4 for i in range(len(rows))]


def test_a_script_is_answered_as_the_window_is():
    trials = some(24, lifts=saw)
    of_the_book = [
        Trial(str(i), "b", "f", "u", "", made=t.made(), pieces=(Piece(2.0, 2.0 * t.lift),))
        for i, t in enumerate(trials)
    ]
    ask = some(6, seed=3)
    asked = model_of(of_the_book).predict([each.made() for each in ask], 0.9)
    for one, other in zip(told(trials, ask, 0.9), asked, strict=True):
        assert (one.mean, one.low, one.high) == pytest.approx((other.mean, other.low, other.high))


def test_nothing_known_is_what_was_recalled():
    found = learn_case(LearnCase((), (AskCase(10.0, 60.0, 200.0, "x"),)))
    (answer,) = found.answers
    assert answer.mean == pytest.approx(LIFT.level[0])
    assert answer.high - answer.low > 4  # and very unsure
    assert found.n == 0


def test_one_trial_says_a_little():
    (before,) = told((), (MIDDLE,))
    (after,) = told((TrialCase(10.0, 60.0, 200.0, "a", 6.0),), (MIDDLE,))
    assert before.mean < after.mean < 6.0
    assert after.high - after.low < before.high - before.low


def test_trials_without_an_outcome_count_for_nothing():
    trials = some(9, lifts=saw)
    gaps = some(5, seed=9, lifts=lambda rows: [None] * len(rows))
    assert told(trials, some(3, seed=4)) == told((*trials, *gaps), some(3, seed=4))


@given(st.permutations(range(12)))
def test_the_order_of_the_trials_does_not_matter(order):
    trials = some(12, bakers=("a",), lifts=saw)
    ask = some(2, seed=5, bakers=("a",))
    turned = tuple(trials[i] for i in order)
    for a, b in zip(told(trials, ask), told(turned, ask), strict=True):
        assert (a.mean, a.low) == pytest.approx((b.mean, b.low), rel=1e-9)


def bakery(rng):
    """A bakery made at random by the prior: its own best leaf, slopes, bakers and scatter."""
    level = rng.normal(*LIFT.level)
    slopes = [(rng.normal(*LIFT.slopes[i]), rng.normal(*LIFT.bends[i])) for i in range(3)]
    own = {name: rng.normal() * LIFT.word for name in ("a", "b")}
    scatter = LIFT.scatter * math.sqrt(LIFT.weight / rng.chisquare(LIFT.weight))

    def outcome(rows):
        mean = [
            level
            + own[row[3]]
            + sum(
                slope * z + bend * z**2
                for (slope, bend), z in zip(
                    slopes,
                    (f.scaled(v) for f, v in zip(FACTORS[:3], row[:3], strict=True)),
                    strict=True,
                )
            )
            for row in rows
        ]
        return [float(m) + rng.normal() * scatter for m in mean]

    return outcome


@pytest.mark.parametrize(("n", "level"), [(8, 0.8), (15, 0.95), (40, 0.8)])
def test_intervals_hold_as_often_as_they_say(n, level):
    """200 simulated bakeries, one new trial each: within binomial error (3 standard deviations)."""
    rng = np.random.default_rng(100 * n + round(100 * level))
    hits = 0
    for i in range(200):
        outcome = bakery(rng)
        trials = some(n, seed=1000 * n + i, lifts=outcome)
        (ask,) = some(1, seed=77_000 + i)
        trials = tuple(
            TrialCase(t.fat_leaf_um, t.chill_min, t.bake_c, t.baker, min(max(t.lift, 0.5), 20.0))
            for t in trials
        )
        (answer,) = told(trials, (ask,), level)
        (came,) = outcome([(ask.fat_leaf_um, ask.chill_min, ask.bake_c, ask.baker)])
        hits += answer.low <= came <= answer.high
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
    usual = {"fat_leaf_um": 10.0, "chill_min": 60.0, "bake_c": 200.0, "baker": "a", "lift": 4.0}
    with pytest.raises(AplombError, match=rf"trials\[0\]\.{words}"):
        learn_case(LearnCase((TrialCase(**usual | change),), ()))


def test_a_level_is_between_none_and_all():
    with pytest.raises(AplombError, match="level"):
        learn_case(LearnCase((), (), level=1.0))
