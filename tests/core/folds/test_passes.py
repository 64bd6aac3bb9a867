"""Passes of a sheeter: by hand, and what must hold for any."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.passes import passes_mm


def test_by_hand():
    """27 to 9 mm with at most a third off: (2/3)^n ≤ 1/3 needs three passes of 1/3^(1/3)."""
    assert passes_mm(27, 9, 1 / 3) == pytest.approx((27 / 3 ** (1 / 3), 27 / 3 ** (2 / 3), 9))
    assert passes_mm(20, 10, 0.5) == (10,)
    assert passes_mm(8, 10, 0.5) == (10,)


@given(st.floats(1, 100), st.floats(0.5, 50), st.floats(0.05, 0.8))
def test_every_pass_takes_off_no_more_than_it_may(start, end, reduction):
    gaps = passes_mm(start, end, reduction)
    assert gaps[-1] == end
    for before, after in pairwise((start, *gaps)):
        if start > end and len(gaps) < 40:
            assert after < before
            assert 1 - after / before <= reduction + 1e-6


@pytest.mark.parametrize(
    ("start", "end", "reduction"),
    [(0, 5, 0.3), (5, -1, 0.3), (float("nan"), 5, 0.3), (20, 5, 0), (20, 5, 1), (20, 5, 2)],
)
def test_what_cannot_be(start, end, reduction):
    with pytest.raises(AplombError):
        passes_mm(start, end, reduction)
