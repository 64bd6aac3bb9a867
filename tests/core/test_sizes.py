"""Sizes: volume is kept through everything."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.errors import AplombError
from aplomb.core.folds.plan import Enclosure, parse_plan
from aplomb.core.folds.sizes import Box, enclosing, rolled, worked_sizes
from aplomb.core.folds.working import Working

volumes = st.floats(10, 1e5)


@given(volumes, st.floats(1, 50), st.floats(20, 1000))
def test_a_sheet_keeps_its_volume(volume, height, width):
    assert rolled(volume, height, width).volume_ml == pytest.approx(volume)


@given(volumes, st.none() | st.floats(50, 800))
def test_every_turn_keeps_the_volume(volume, width):
    plan = parse_plan("envelope 3@9 4 / q 6@12 s3")
    sizes = worked_sizes(plan, volume, width).turns
    assert len(sizes) == 5
    for size in sizes:
        assert size.sheet.volume_ml == pytest.approx(volume)
        assert size.block.volume_ml == pytest.approx(volume)
    assert sizes[0].sheet.height_mm == 9
    assert sizes[0].block.height_mm == 27
    assert sizes[1].sheet.height_mm == 10  # common practice when the line does not say


def test_without_a_width_the_folded_block_is_square():
    size = worked_sizes(parse_plan("envelope 3"), 1500, None).turns[0]
    assert size.block.length_mm == pytest.approx(size.block.width_mm)
    assert size.sheet.length_mm / size.sheet.width_mm == pytest.approx(3)


def test_a_single_by_hand():
    """Hand calculation: 1.62 L at 9 mm and 300 mm wide is 600 mm long, folded 200 × 300 × 27."""
    size = worked_sizes(parse_plan("envelope 3@9"), 1620, 300).turns[0]
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


@given(
    st.sampled_from(["envelope", "thirds", "halves", "inverse", "coil"]),
    st.floats(0, 15), st.floats(0, 20), st.sampled_from(["turned", "cross"]),
)  # fmt: skip
def test_borders_and_overlaps_keep_every_volume(name, border, overlap, way):
    working = Working(border_mm=border, overlap_mm=overlap, envelope=way)
    how = enclosing(Enclosure(name), 1000, 800, 12, 200, working)
    assert how.fat.volume_ml == pytest.approx(800)
    if how.shape == "cross":  # four flaps of a middle's size, each a quarter as high
        middle = how.done.length_mm**2 * how.dough.height_mm
        assert 2 * middle == pytest.approx(1_000_000)
    elif how.shape != "coil":
        assert how.dough.volume_ml == pytest.approx(1000)
        assert how.done.volume_ml == pytest.approx(1800)
    else:  # a log: π R² times its width
        r = how.done.height_mm / 2
        assert math.pi * r * r * how.done.width_mm == pytest.approx(1_800_000)


def test_a_border_is_left_where_the_block_opens():
    """By hand: a fat block of 800 mL, 12 mm high, is 258.2 mm square; 10 mm of border all round."""
    how = enclosing(Enclosure.ENVELOPE, 1000, 800, 12, 200, Working(border_mm=10))
    assert how.fat.length_mm == pytest.approx(258.199, abs=0.01)
    assert how.done.length_mm == pytest.approx(278.199, abs=0.01)
    assert how.dough.length_mm == pytest.approx(math.sqrt(2) * 278.199, abs=0.01)
    how = enclosing(Enclosure.THIRDS, 1000, 800, 12, 200, Working(border_mm=10))
    assert how.fat.width_mm == 180
    assert 2 * how.dough.length_mm / 3 - how.fat.length_mm == pytest.approx(10)


@pytest.mark.parametrize(
    ("line", "left"),
    [("envelope t10", (0.9, 0.9)), ("envelope t10f", (0.9, 1)), ("envelope t10r", (1, 0.9))],
)
def test_a_trim_takes_its_edges_by_hand(line, left):
    """A block of 200 × 200 mm: 10 mm off two edges leave nine tenths."""
    block = Box(200, 200, 40)
    worked = worked_sizes(parse_plan(f"{line} 3"), 1600, 300, start=block)
    (trim,) = worked.trims
    assert (trim.left.length_mm / 200, trim.left.width_mm / 200) == pytest.approx(left)
    assert trim.off_ml == pytest.approx(1600 * (1 - left[0] * left[1]))
    assert worked.turns[0].sheet.volume_ml == pytest.approx(1600 - trim.off_ml)


def test_what_leaves_nothing_is_refused():
    block = Box(200, 200, 40)
    with pytest.raises(AplombError, match="leaves nothing of a block of 200 × 200"):
        worked_sizes(parse_plan("envelope t100"), 1600, 300, start=block)
    for name in ("thirds", "halves"):
        with pytest.raises(AplombError, match="leave nothing of a width"):
            enclosing(Enclosure(name), 1000, 800, 12, 100, Working(border_mm=50))
    with pytest.raises(AplombError, match="leaves no room"):
        enclosing(Enclosure.INVERSE, 1000, 100, 12, 300, Working(border_mm=90))
    with pytest.raises(AplombError, match="whole sheet"):
        enclosing(Enclosure.COIL, 10, 10, 12, 300, Working(border_mm=90))
    with pytest.raises(AplombError, match="above 0"):
        enclosing(Enclosure.COIL, 0, 100, 12, 300, Working(coil_mm=0))


def test_a_roll_up_gives_a_log_of_the_same_volume():
    turn = worked_sizes(parse_plan("envelope r@4"), 900, 300).turns[0]
    assert turn.sheet.height_mm == 4
    assert math.pi / 4 * turn.block.height_mm**2 * 300 == pytest.approx(900_000)
