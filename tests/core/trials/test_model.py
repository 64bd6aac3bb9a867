"""Learning over all factors: against least squares, by leaving out, and over simulated bakeries."""

import math

import numpy as np
import pytest
from msgspec.structs import replace
from scipy import stats

from aplomb.core.trials.bands import LEAST_FOR_BAND, learned_band
from aplomb.core.trials.model import FACTORS, PRIORS, model_of
from aplomb.core.trials.regression import (
    after_data,
    before_data,
    half_width,
    spread_of,
    standing_out,
)
from aplomb.core.trials.trial import Made, Piece, Trial


def trial(i, made, lift, **more):
    pieces = () if lift is None else (Piece(4.0, 4.0 * lift),)
    return Trial(f"t{i}", f"b{i}", "paste", "u", "2026-01-01", made=made, pieces=pieces, **more)


def bakery(rng, n, best=12.0, scatter=0.45, top=5.0, bend=0.7):
    """Simulate a bakery: lift falls with the square of the log of the leaf to both sides."""
    own = rng.normal(0, 0.35, 2)
    rows = []
    for i in range(n):
        leaf = float(np.exp(rng.uniform(math.log(4), math.log(40))))
        hand = int(rng.integers(2))
        lift = top + own[hand] - bend * math.log(leaf / best) ** 2 + rng.normal(0, scatter)
        made = Made(leaf, chill_min=float(rng.uniform(30, 90)), bake_c=200.0, baker="ab"[hand])
        rows.append(trial(i, made, max(1.0, float(lift))))
    return rows, own


def test_with_a_flat_prior_the_mean_is_least_squares():
    """Against NumPy's least squares."""
    rng = np.random.default_rng(4)
    x, y = rng.normal(size=(40, 5)), rng.normal(size=40)
    found = after_data(before_data(np.zeros(5), np.full(5, 1e5), 1.0, 1e-6), x, y)
    reference, squares, *_ = np.linalg.lstsq(x, y, rcond=None)
    assert found.mean == pytest.approx(reference, abs=1e-6)
    assert 2 * found.rate == pytest.approx(squares[0], rel=1e-4)


def test_the_posterior_does_not_hang_on_the_order_or_the_parts():
    """Learned in two parts it is the same as at once: an identity of conjugate priors."""
    rng = np.random.default_rng(5)
    x, y = rng.normal(size=(30, 4)), rng.normal(size=30)
    prior = before_data(np.ones(4), np.full(4, 2.0), 0.7, 3.0)
    whole = after_data(prior, x, y)
    parts = after_data(after_data(prior, x[:11], y[:11]), x[11:], y[11:])
    assert parts.mean == pytest.approx(whole.mean)
    assert (parts.rate, parts.shape, parts.n) == pytest.approx((whole.rate, whole.shape, whole.n))


def test_standing_out_is_what_leaving_the_row_out_gives():
    """Against fits with each row really left out."""
    rng = np.random.default_rng(6)
    x, y = rng.normal(size=(15, 3)), rng.normal(size=15)
    prior = before_data(np.zeros(3), np.full(3, 2.0), 1.0, 4.0)
    told = standing_out(after_data(prior, x, y), x, y)
    for i in range(15):
        keep = np.arange(15) != i
        rest = after_data(prior, x[keep], y[keep])
        wide = rest.scatter * math.sqrt(1 + x[i] @ rest.cov @ x[i])
        assert told[i] == pytest.approx((y[i] - x[i] @ rest.mean) / wide)


def test_half_width_is_student_s():
    """SciPy's quantile."""
    prior = before_data(np.zeros(1), np.ones(1), 2.0, 6.0)
    told = half_width(prior, np.array([1.0]), 0.9)[0]
    assert told == pytest.approx(stats.t.ppf(0.95, 6) * 2.0)


@pytest.mark.parametrize("n", [8, 15, 40])
def test_intervals_for_a_new_trial_hold_what_they_promise(n):
    """200 simulated bakeries: held within the binomial error of 90 % (three sigma)."""
    rng, held = np.random.default_rng(100 + n), 0
    for _ in range(200):
        best = float(np.exp(rng.normal(math.log(10), 0.5)))
        top, bend = float(rng.normal(4.2, 1.0)), float(abs(rng.normal(0.5, 0.4)))
        rows, _ = bakery(rng, n + 1, best=best, top=top, bend=bend)
        *known, new = rows
        (told,) = model_of(known).predict([new.made], 0.9)
        lift = new.pieces[0].baked_mm / 4
        held += told.low <= lift <= told.high
    slack = 3 * math.sqrt(0.9 * 0.1 / 200)
    assert 0.9 - slack <= held / 200, held
    if n == 40:  # and is not simply wide
        assert held / 200 <= 0.9 + slack


def test_the_band_holds_the_best_leaf_of_most_bakeries():
    """40 simulated bakeries: the true best lies between the ends' outer limits in 34 or more."""
    held = 0
    for seed in range(40):
        rng = np.random.default_rng(900 + seed)
        best = float(np.exp(rng.uniform(math.log(7), math.log(22))))
        rows, _ = bakery(rng, 30, best=best)
        band = learned_band(model_of(rows), "fat_leaf_um", rng)
        held += band.low_from <= best <= band.high_to
    assert held >= 34, held


def test_no_band_from_few_trials_or_from_one_leaf():
    rng = np.random.default_rng(1)
    rows, _ = bakery(rng, LEAST_FOR_BAND)
    assert learned_band(model_of(rows[:-1]), "fat_leaf_um", rng) is None
    assert learned_band(model_of(rows), "fat_leaf_um", rng) is not None
    assert learned_band(model_of(rows), "bake_c", rng) is None


def test_the_band_does_not_go_beyond_what_was_tried():
    rng = np.random.default_rng(2)
    rows, _ = bakery(rng, 40, best=60.0)
    band = learned_band(model_of(rows), "fat_leaf_um", rng)
    said = [t.made.fat_leaf_um for t in rows]
    assert min(said) <= band.low < band.high <= max(said) * (1 + 1e-9)
    assert band.open_high
    assert not band.open_low


def test_failed_and_unmeasured_trials_change_nothing():
    rows, _ = bakery(np.random.default_rng(3), 12)
    more = [trial(90, Made(10.0), 1.0, failed="burnt"), trial(91, Made(10.0), None)]
    assert model_of([*rows, *more]).belief.mean == pytest.approx(model_of(rows).belief.mean)


def test_a_wild_trial_is_marked_and_stays_in():
    rows, _ = bakery(np.random.default_rng(7), 25)
    wild = trial(99, replace(rows[0].made), 12.0)
    model = model_of([*rows, wild])
    assert model.outliers == ("t99",)
    assert model.n == 26


def test_a_gap_stands_at_the_mean_of_the_others_and_is_counted():
    rows, _ = bakery(np.random.default_rng(8), 10)
    gap = trial(50, Made(10.0, baker="a"), 4.0)
    model = model_of([*rows, gap])
    assert model.known("chill_min") == 10
    assert model.usual["chill_min"] == pytest.approx(np.mean([t.made.chill_min for t in rows]))
    assert model.usual["fat_pct"] == next(f.middle for f in FACTORS if f.key == "fat_pct")


def test_one_trial_and_none_say_what_was_recalled_and_how_unsure_it_is():
    none, one = model_of([]), model_of([trial(0, Made(10.0), 6.0)])
    (before,), (after,) = none.mean([Made(10.0)]), one.mean([Made(10.0)])
    assert before.mean == pytest.approx(PRIORS["lift"].level[0], abs=0.3)
    assert before.mean < after.mean < 6.0
    assert after.high - after.low < before.high - before.low


def test_alike_trials_put_the_scatter_right_but_never_near_nought():
    same = [trial(i, Made(10.0, baker="a"), 4.0) for i in range(30)]
    assert model_of(same).prior.scatter == pytest.approx(0.6 * PRIORS["lift"].scatter)
    wild = [trial(i, Made(10.0, baker="a"), 3.0 + 2 * (i % 2)) for i in range(30)]
    assert model_of(wild).prior.scatter == pytest.approx(0.98, abs=0.06)


@pytest.mark.parametrize("outcome", PRIORS)
def test_every_outcome_can_be_asked_of_an_empty_book(outcome):
    (told,) = model_of([], outcome).predict([Made()])
    assert told.low < told.mean < told.high


def test_a_new_baker_is_less_sure_than_a_known_one():
    model = model_of(bakery(np.random.default_rng(9), 30)[0])
    known, new, nobody = model.predict([Made(10.0, baker=b) for b in ("a", "z", "")])
    assert new.high - new.low > known.high - known.low
    assert nobody.high - nobody.low <= new.high - new.low


def test_the_regression_is_that_of_another_program():
    """Against scikit-learn: ridge for the mean, a process with a linear kernel for both."""
    from sklearn.gaussian_process import GaussianProcessRegressor
    from sklearn.gaussian_process.kernels import DotProduct
    from sklearn.linear_model import Ridge

    rng = np.random.default_rng(12)
    x, y = rng.normal(size=(25, 4)), rng.normal(size=25)
    scatter, spread = 0.5, np.array([2.0, 1.0, 0.3, 4.0])
    ours = after_data(before_data(np.zeros(4), spread, scatter, 1e9), x, y)
    scaled = x * spread / scatter  # the prior's spread becomes one, the scatter too
    ridge = Ridge(alpha=1.0, fit_intercept=False).fit(scaled, y)
    assert ours.mean == pytest.approx(ridge.coef_ * spread / scatter)
    kernel = DotProduct(sigma_0=0.0, sigma_0_bounds="fixed")
    process = GaussianProcessRegressor(kernel, alpha=scatter**2, optimizer=None)
    asked = rng.normal(size=(6, 4))
    mean, sigma = process.fit(x * spread, y).predict(asked * spread, return_std=True)
    assert asked @ ours.mean == pytest.approx(mean)
    told = ours.scatter * np.sqrt(spread_of(ours, asked))
    assert told == pytest.approx(sigma, rel=1e-4)


def test_a_gaussian_process_sees_no_cliff_that_the_curve_misses():
    """Against scikit-learn's process on the demo's series: both say the same within the scatter."""
    from sklearn.gaussian_process import GaussianProcessRegressor
    from sklearn.gaussian_process.kernels import RBF, ConstantKernel, WhiteKernel

    rows, _ = bakery(np.random.default_rng(21), 40)
    model = model_of(rows)
    leaf = np.log([r.made.fat_leaf_um for r in model.rows])[:, None]
    lift = np.array([r.value for r in model.rows])
    kernel = ConstantKernel(1.0) * RBF(0.7, (0.3, 3.0)) + WhiteKernel(0.2)
    process = GaussianProcessRegressor(kernel, normalize_y=True, random_state=1).fit(leaf, lift)
    grid = np.linspace(math.log(5), math.log(36), 15)
    ours = [i.mean for i in model.mean([Made(float(np.exp(g)), chill_min=60) for g in grid])]
    assert np.abs(process.predict(grid[:, None]) - ours).max() < 0.6
