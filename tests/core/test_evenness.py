"""Evenness of sections: by hand on small ones, and against the expected mean on real ones."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import array_shapes, arrays

from aplomb.core.errors import AplombError
from aplomb.core.folds.evenness import evenness, evenness_of
from aplomb.core.folds.pieces import Mass
from aplomb.core.folds.plan import parse_plan
from aplomb.core.folds.raster import Paste, Section
from aplomb.core.folds.sizes import enclosing, worked_sizes


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
    """Two along a line at the start (0.5 × 60 / 15) and three doubles: 2 × 64 = 128, and
    with pieces that touch 110 to 130 with a spread of a few (arithmetic of the map)."""
    mass = Mass(fat_share=0.5, height_mm=60.0, length_mm=240.0, piece_mm=15.0)
    plan = parse_plan("pieces 4 4 / 4")
    how = enclosing(plan.enclosure, 500, 500, 12, 200)
    section = Section(Paste(plan, 0.5, how, worked_sizes(plan, 1000, 300), mass=mass))
    found = evenness_of(section, 128.0, 3.5)
    assert 110 <= found.mean <= 132
    assert 0 < found.spread < 15
    assert found.longest_mm < 1.0


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
