"""Sizes: volume is kept through everything."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.errors import AplombError
from aplomb.core.folds.plan import Enclosure, parse_plan
from aplomb.core.folds.sizes import enclosing, rolled, turn_sizes

volumes = st.floats(10, 1e5)


@given(volumes, st.floats(1, 50), st.floats(20, 1000))
def test_a_sheet_keeps_its_volume(volume, height, width):
    assert rolled(volume, height, width).volume_ml == pytest.approx(volume)


@given(volumes, st.none() | st.floats(50, 800))
def test_every_turn_keeps_the_volume(volume, width):
    plan = parse_plan("envelope 3@9 4 / q 6@12 s3")
    sizes = turn_sizes(plan, volume, width)
    assert len(sizes) == 5
    for size in sizes:
        assert size.sheet.volume_ml == pytest.approx(volume)
        assert size.block.volume_ml == pytest.approx(volume)
    assert sizes[0].sheet.height_mm == 9
    assert sizes[0].block.height_mm == 27
    assert sizes[1].sheet.height_mm == 10  # common practice when the line does not say


def test_without_a_width_the_folded_block_is_square():
    size = turn_sizes(parse_plan("envelope 3"), 1500, None)[0]
    assert size.block.length_mm == pytest.approx(size.block.width_mm)
    assert size.sheet.length_mm / size.sheet.width_mm == pytest.approx(3)


def test_a_single_by_hand():
    """Hand calculation: 1.62 L at 9 mm and 300 mm wide is 600 mm long, folded 200 × 300 × 27."""
    size = turn_sizes(parse_plan("envelope 3@9"), 1620, 300)[0]
    assert size.sheet.length_mm == pytest.approx(600)
    assert size.block.length_mm == pytest.approx(200)


@given(volumes, volumes, st.floats(4, 40), st.floats(60, 600))
def test_enclosing_keeps_both_volumes(dough, fat, thick, width):
    for enclosure in (
        Enclosure.ENVELOPE, Enclosure.THIRDS, Enclosure.HALVES, Enclosure.INVERSE,
    ):  # fmt: skip
        how = enclosing(enclosure, dough, fat, thick, width)
        assert how.dough.volume_ml == pytest.approx(dough)
        assert how.fat.volume_ml == pytest.approx(fat)
        assert how.done.volume_ml == pytest.approx(dough + fat)


def test_the_trades_proportions():
    """Calculation: envelope √2, thirds 1.5 times, halves twice; the inverse way the fat twice."""
    how = enclosing(Enclosure.ENVELOPE, 1000, 800, 12, 200)
    assert how.dough.length_mm / how.fat.length_mm == pytest.approx(math.sqrt(2))
    how = enclosing(Enclosure.THIRDS, 1000, 800, 12, 200)
    assert how.dough.length_mm / how.fat.length_mm == pytest.approx(1.5)
    how = enclosing(Enclosure.HALVES, 1000, 800, 12, 200)
    assert how.dough.length_mm / how.fat.length_mm == pytest.approx(2)
    how = enclosing(Enclosure.INVERSE, 1000, 800, 12, 200)
    assert how.fat.length_mm / how.dough.length_mm == pytest.approx(2)


def test_pieces_and_plain_dough_are_one_mass():
    for enclosure in (Enclosure.PIECES, Enclosure.NONE):
        how = enclosing(enclosure, 1000, 800, 12, 200)
        assert how.fat is None
        assert how.done.volume_ml == pytest.approx(1800)


def test_impossible_sheets_are_refused():
    for args in ((0, 3, 200), (100, 0, 200), (100, 3, 0), (float("nan"), 3, 200)):
        with pytest.raises(AplombError, match="above 0"):
            rolled(*args)
    with pytest.raises(AplombError, match="cannot be worked out yet"):
        enclosing(Enclosure.COIL, 100, 100, 10, 200)
