"""Sizes: volume is kept through everything."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.boxes import Box, Room, rolled
from aplomb.core.folds.enclosing import enclosing
from aplomb.core.folds.plan import Enclosure
from aplomb.core.folds.sizes import MOST_SIDEWAYS, natural_width, worked_sizes
from aplomb.core.folds.turn_line import parse_plan
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
        Enclosure.ENVELOPE,
        Enclosure.THIRDS,
        Enclosure.HALVES,
        Enclosure.INVERSE,
    ):
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
    st.floats(0, 15),
    st.floats(0, 20),
    st.sampled_from(["turned", "cross"]),
)
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
        with pytest.raises(AplombError, match="leave nothing of a sheet 100 mm wide"):
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


def test_the_trades_example_of_a_sheet_in_turn():
    """Common practice, worked by hand: 90 × 42 cm folded in three is 30 × 42; turned, it is rolled
    to 126 × 30 cm at the same thickness, or, 1.4 times wider than it lies, to 90 × 42 again: the
    rectangle of the turn before is kept where it fits."""
    volume = 900 * 420 * 8 / 1000
    before = Box(300, 420, 24)
    plan = parse_plan("envelope 3@8 3@8 3@8")
    first, second, third = worked_sizes(plan, volume, None, start=before).turns
    assert (first.sheet.length_mm, first.sheet.width_mm) == pytest.approx((1260, 300))
    assert (first.block.length_mm, first.block.width_mm) == pytest.approx((420, 300))
    assert (second.sheet.length_mm, second.sheet.width_mm) == pytest.approx((900, 420))
    assert (third.sheet.length_mm, third.sheet.width_mm) == pytest.approx((900, 420))
    assert natural_width(second.block, volume, 8, 3, Room()) == pytest.approx(300)
    tight = worked_sizes(plan, volume, None, start=before, room=Room(wide_mm=400)).turns
    assert tight[2].sheet.width_mm <= 400, "what has no room is not rolled again"


@given(volumes, st.lists(st.sampled_from(["2", "3", "4", "3@8", "4@6"]), min_size=2, max_size=6))
def test_the_same_rectangle_where_it_fits_and_never_narrower(volume, words):
    """Calculation: a sheet is the one before it or none wider than 1.5 times the block across."""
    plan = parse_plan(" ".join(["envelope", *words]))
    lies, last = Box(200, 200, volume * 1000 / 40_000), None
    for turn in worked_sizes(plan, volume, None, start=lies).turns:
        across = turn.sheet.width_mm / lies.length_mm
        assert 1 - 1e-6 <= across <= MOST_SIDEWAYS + 1e-6
        if last is not None and abs(last.height_mm - turn.sheet.height_mm) < 1e-9:
            fits = 1 <= last.width_mm / lies.length_mm <= MOST_SIDEWAYS
            room = last.length_mm <= 1800 and last.width_mm <= 600 and turn.block.length_mm <= 600
            if fits and room:
                assert turn.sheet.width_mm == pytest.approx(last.width_mm)
        lies, last = turn.block, turn.sheet


@given(
    volumes,
    st.floats(50, 500),
    st.floats(50, 500),
    st.sampled_from([2, 3, 4, 5, 6]),
    st.floats(4, 14),
)
def test_a_sheet_is_never_narrowed_and_hardly_widened(volume, long, wide, panels, thick):
    before = Box(long, wide, volume * 1000 / (long * wide))
    found = natural_width(before, volume, thick, panels, Room())
    assert before.length_mm * (1 - 1e-9) <= found <= MOST_SIDEWAYS * before.length_mm * (1 + 1e-9)


@given(volumes, st.floats(100, 400), st.sampled_from([2, 3, 4]))
def test_with_room_a_sheet_is_stretched_as_many_times_as_it_is_folded(volume, side, panels):
    """Calculation: where the sideways stretch is within its limits, along is n times."""
    before = Box(side, side, volume * 1000 / side**2)
    endless = Room(1e9, 1e9, 1e9)
    thick = before.height_mm / panels / 1.2  # n times along and 1.2 times sideways
    found = natural_width(before, volume, thick, panels, endless)
    assert found == pytest.approx(1.2 * side)
    assert volume * 1000 / thick / found == pytest.approx(panels * side)


def test_a_sheet_keeps_within_the_room_as_far_as_it_can():
    """By hand: 6 L at 10 mm are 600 000 mm²; 1.2 m of bench want 500 mm; a block 400 mm long may be
    rolled 400 to 600 wide. On 0.9 m it would want 667, and 600 is the most."""
    before = Box(400, 400, 37.5)
    assert natural_width(before, 6000, 10, 3, Room(1200, 700, 600)) == pytest.approx(500)
    assert natural_width(before, 6000, 10, 3, Room(900, 700, 600)) == pytest.approx(600)
    assert natural_width(before, 6000, 10, 3, Room(2000, 420, 600)) == pytest.approx(420)
    assert natural_width(before, 6000, 10, 3, Room(2000, 300, 600)) == pytest.approx(400)


@pytest.mark.parametrize("name", ["thirds", "halves", "inverse", "pieces", "none", "portions"])
@given(st.floats(200, 3000), st.floats(100, 2000), st.floats(8, 20), st.floats(0, 12))
def test_an_enclosed_block_is_as_wide_as_long(name, dough, fat, thick, border):
    """Our choice, as a square block is the easiest to go on from either way."""
    working = Working(border_mm=border)
    how = enclosing(Enclosure(name), dough, fat, thick, None, working, Room(1e9, 1e9, 1e9))
    assert how.done.length_mm == pytest.approx(how.done.width_mm, rel=1e-6)


def test_an_enclosing_that_would_be_too_long_is_wider():
    """By hand: 2 L of fat 10 mm thick are 200 000 mm². In thirds a square block has a side of 316
    mm and a dough of 949; on 800 mm of bench the side has to be 200 000 · 3 / (2 · 800) = 375."""
    how = enclosing(Enclosure.THIRDS, 2000, 2000, 10)
    assert how.dough.length_mm == pytest.approx(3 * math.sqrt(1e5))
    how = enclosing(Enclosure.THIRDS, 2000, 2000, 10, None, None, Room(800, 700, 600))
    assert (how.dough.width_mm, how.dough.length_mm) == pytest.approx((375, 800))


def test_pieces_are_gathered_to_the_height_that_is_said():
    how = enclosing(Enclosure.PIECES, 1000, 1000, 12, gathered_mm=50)
    assert how.done.height_mm == 50
    assert how.done.length_mm == pytest.approx(200)
