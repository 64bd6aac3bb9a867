"""Evenness of sections: by hand on small ones, and against the expected mean on real ones."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import array_shapes, arrays

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.enclosing import enclosing
from aplomb.core.folds.evenness import error_of_mean, evenness, evenness_of
from aplomb.core.folds.pieces import Mass
from aplomb.core.folds.pieces_form import pieces_at_start
from aplomb.core.folds.raster import Paste, Section
from aplomb.core.folds.sizes import worked_sizes
from aplomb.core.folds.turn_line import parse_plan


def test_by_hand():
    """Columns: two leaves; one leaf; none. Longest dough: the bare column, all four rows of 8 mm
    make 2 mm each."""
    cut = np.array([[1, 0, 0], [0, 1, 0], [1, 1, 0], [0, 0, 0]], bool)
    found = evenness(cut, 8.0)
    assert (found.mean, found.least, found.most) == (1.0, 0, 2)
    assert found.spread == pytest.approx((2 / 3) ** 0.5)
    assert found.bare_share == pytest.approx(1 / 3)
    assert found.longest_mm == 8.0
    assert found.histogram == ((0, 1), (1, 1), (2, 1))


@given(arrays(bool, array_shapes(min_dims=2, max_dims=2, min_side=1, max_side=20)))
def test_the_histogram_holds_every_vertical(cut):
    found = evenness(cut, 10.0)
    assert sum(n for _, n in found.histogram) == cut.shape[1]
    assert found.least <= found.mean <= found.most
    assert 0 <= found.longest_mm <= 10.0
    for column in cut.T:  # no run of dough is longer, looked for one by one
        runs = "".join("x" if fat else "." for fat in column).split("x")
        assert max(len(run) for run in runs) * 10.0 / cut.shape[0] <= found.longest_mm + 1e-9


def test_rough_puff_comes_out_at_start_times_product():
    """Two along a line at the start (0.5 × 60 / 15) and three doubles: 2 × 64 = 128, with a spread
    of a few (arithmetic of the map)."""
    mass = Mass(fat_share=0.5, height_mm=60.0, length_mm=240.0, piece_mm=15.0)
    plan = parse_plan("pieces 4 4 / 4")
    how = enclosing(plan.enclosure, 500, 500, 12, 200)
    section = Section(Paste(plan, 0.5, how, worked_sizes(plan, 1000, 300), mass=mass))
    found = evenness_of(section, 128.0, 3.5)
    assert abs(found.mean - 128) <= 3 * found.error
    assert 0 < found.spread < 15
    assert found.longest_mm < 1.0


LINES = ["3 3 / 4 3 /", "3 3 / 3 3 /", "4 4 / 4 /", "3 4 / 3 4 /"]


@pytest.mark.parametrize(
    ("form", "spread", "piece", "line"),
    [("cubes", 0.0, 15.0, line) for line in LINES[:1]]
    + [
        ("cubes", 0.5, 15.0, LINES[0]),
        ("flakes", 0.0, 15.0, "3 3 /"),
        ("crumbs", 0.0, 12.0, LINES[0]),
        ("gratings", 0.0, 8.0, LINES[0]),
    ],
)
def test_the_shown_mean_is_within_its_own_error_of_the_expected(form, spread, piece, line):
    """Over seeds: the mean of a section lies within three of its printed standard errors of what
    the rule expects for 11 of 12, its errors are neither far too large nor too small, all seeds
    together come to the rule (φ H / d times the product), and seeds scatter a few percent as mixed
    pieces do, not as rows that the folds meet all or none."""
    plan = parse_plan(f"pieces {line}")
    how = enclosing(plan.enclosure, 560, 440, 12, 200)
    worked = worked_sizes(plan, 1000, 300)
    expected = plan.product * pieces_at_start(0.44, 55.0, piece, form, spread)
    found = []
    for seed in range(12):
        mass = Mass(0.44, 55.0, 234.0, piece, seed, form, spread)
        found.append(evenness_of(Section(Paste(plan, 0.44, how, worked, mass=mass)), expected, 3.5))
    means = np.array([each.mean for each in found])
    off = (means - expected) / np.array([each.error for each in found])
    assert (np.abs(off) <= 3).sum() >= 11
    assert 0.4 < off.std() < 1.6
    assert means.mean() == pytest.approx(expected, rel=0.035)
    assert 0.005 < means.std() / expected < 0.09


def test_the_error_by_hand():
    """Two verticals of three pieces, all places filled by half: c is 1/2, 1/2 and 1 (seen by both),
    Σ c² = 1.5, Σ c = 2: √(1.5 - 0.5 · 4 / 3)."""
    numbers = np.array([[1, 0], [1, 2], [0, 0], [3, 3]], np.int32)
    assert error_of_mean(numbers, 0.5) == pytest.approx((1.5 - 0.5 * 4 / 3) ** 0.5)
    assert error_of_mean(np.zeros((4, 2), np.int32), 0.5) == 0.0


@pytest.mark.parametrize("height", [0.0, -1.0, float("nan")])
def test_nothing_to_judge(height):
    with pytest.raises(AplombError):
        evenness(np.ones((3, 3), bool), height)
    with pytest.raises(AplombError):
        evenness(np.ones((0, 3), bool), 5.0)


@given(st.integers(1, 12), st.integers(1, 6))
def test_an_even_section_has_no_spread(leaves, columns):
    stripe = np.tile([True, False], leaves)[:, None].repeat(columns, axis=1)
    found = evenness(stripe, 1.0)
    assert (found.mean, found.spread, found.bare_share) == (leaves, 0.0, 0.0)
