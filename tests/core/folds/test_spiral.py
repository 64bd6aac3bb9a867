"""Logs: against the closed formula, the arc length integrated, and the areas that must be kept."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.spiral import pressed, round_log, unrolled
from aplomb.core.folds.windings import log_radius_mm, windings


@given(st.floats(1.5, 120), st.floats(0.2, 20))
def test_windings_and_length_are_each_other_backwards(many, thickness):
    """Closed formula: L = π N² t."""
    length = math.pi * many**2 * thickness
    assert windings(length, thickness) == pytest.approx(many)
    assert log_radius_mm(length, thickness) == pytest.approx(many * thickness)


@pytest.mark.parametrize("many", [5, 12, 40])
def test_the_arc_length_integrated_is_the_sheet(many):
    """Archimedean spiral r = t φ / 2π of N windings, its arc ∫ √(r² + r'²) dφ by quadrature.

    The closed formula leaves r' out, which is half a winding's worth at the very middle.
    """
    t = 2.0
    arc, _ = quad(lambda phi: t / (2 * math.pi) * math.hypot(phi, 1), 0, 2 * math.pi * many)
    assert arc == pytest.approx(math.pi * many**2 * t, rel=1 / many**2)


@pytest.mark.parametrize("turns", [1.0, 1.4, 7.0, 13.3, 60.8])
def test_areas_are_kept(turns):
    """A uniform face comes from a uniform sheet: every tenth of it is met a tenth of the time."""
    random = np.random.default_rng(1)
    q, tau = random.random((2, 400_000), dtype="f4")
    along, depth = unrolled(q, np.minimum(tau, 0.999999), turns)
    for place in (along, depth):
        shares = np.histogram(place, bins=10, range=(0, 1))[0] / len(q)
        np.testing.assert_allclose(shares, 0.1, atol=0.004)
    both = np.histogram2d(along, depth, bins=5, range=((0, 1), (0, 1)))[0] / len(q)
    np.testing.assert_allclose(both, 0.04, atol=0.004)


def test_the_sheet_goes_on_from_winding_to_winding():
    """Just before and after the ray where the angle begins anew, one winding further out."""
    before = unrolled(np.float32([0.5]), np.float32([0.9999]), 9.5)
    k = np.floor(np.sqrt(0.9999**2 + 0.5 * (81 + 18 * 0.9999)) - 0.9999)
    after_q = np.float32([((k + 1.5) ** 2) / 100])  # in the middle of the next leaf, ray τ = 0
    after = unrolled(after_q, np.float32([0.0]), 9.5)
    assert float(after[0][0]) == pytest.approx(float(before[0][0]), abs=0.012)


def test_a_line_through_the_middle_meets_every_winding_twice():
    z = ((np.arange(8000) + 0.5) / 8000).astype("f4")
    for many in (6.0, 15.5, 40.25):
        for way in (pressed, round_log):
            _, depth = unrolled(*way(np.full_like(z, 0.5), z), many)
            fat = depth > 0.6
            leaves = int((fat[1:] & ~fat[:-1]).sum() + fat[0])
            assert leaves == pytest.approx(2 * many, abs=1.6)


def test_pressing_keeps_areas_and_the_middle():
    """Shirley and Chiu's map keeps areas: equal shares of the square in equal rings."""
    random = np.random.default_rng(2)
    q, tau = pressed(*random.random((2, 200_000), dtype="f4"))
    for place, bins in ((q, 10), (tau, 8)):
        shares = np.histogram(place, bins=bins, range=(0, 1))[0] / len(place)
        np.testing.assert_allclose(shares, 1 / bins, atol=0.004)
    centre, _ = pressed(np.float32([0.5]), np.float32([0.5]))
    assert float(centre[0]) == 0


@pytest.mark.parametrize(
    ("length", "thick"), [(0, 1), (-5, 1), (100, 0), (math.nan, 1), (math.inf, 1)]
)
def test_unusable_sheets_are_refused(length, thick):
    with pytest.raises(AplombError, match="above 0"):
        windings(length, thick)


@pytest.mark.parametrize("turns", [0.4, 401.0, math.nan])
def test_what_cannot_be_drawn_is_refused(turns):
    with pytest.raises(AplombError, match="cannot be drawn"):
        unrolled(np.float32([0.5]), np.float32([0.5]), turns)
