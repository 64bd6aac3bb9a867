"""The section carried back pixel by pixel: against the exact stack, and what must be kept."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.counts import DOUGH, FAT
from aplomb.core.folds.enclosing import enclosing
from aplomb.core.folds.evenness import leaves_along
from aplomb.core.folds.pieces import Mass
from aplomb.core.folds.raster import STREWN, VOID, Paste, Section, Window, _Points
from aplomb.core.folds.sizes import worked_sizes
from aplomb.core.folds.stack import stack_of
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.turn_line import parse_plan
from aplomb.core.folds.unfold import Fold, runs_of
from aplomb.core.folds.working import Working

BENT = Working(hinge_pct=100)
SHORT = Working(misfold_mm=15)
UNEVEN = Working(uneven_pct=30)


def cut(line, working=None, share=0.4, *, strewn=(), final=True, across=False, volume_ml=1000.0):
    """Make a section of a litre of paste, every sheet 30 cm wide."""
    working = working or Working()
    plan = parse_plan(line)
    fat_ml = volume_ml * share
    how = enclosing(plan.enclosure, volume_ml - fat_ml, fat_ml, 12, 200, working)
    worked = worked_sizes(plan, volume_ml, 300, fat_ml, working, how.done)
    mass = Mass(share, 60, 240, 15) if line.startswith("pieces") else None
    return Section(
        Paste(plan, share, how, worked, working, mass, strewn, final, plan.portion_shares()),
        across=across,
    )


LINES = (
    "envelope", "envelope 3 4 / 3", "thirds 4 3", "halves 2 3 q", "inverse 4 4", "thirds 5 6",
    "portions +3 +3 +3", "portions +3:40 +3 +2 4", "portions +3:50:1 +3 3 4o", "envelope s4 3",
    "portions +4:60:2-3 +3::2-3 3", "envelope 4o 4o", "envelope t10 3 t5f 4", "portions +2 s3 5",
)  # fmt: skip


@pytest.mark.parametrize("line", LINES)
@pytest.mark.parametrize("across", [False, True])
def test_the_raster_of_a_sheet_plan_is_its_stack(line, across):
    """Two ways of working, one answer: every pixel but those a leaf's edge runs through."""
    rows = 4000
    found = cut(line, across=across).kinds(rows, 40)
    stack = stack_of(parse_plan(line), 0.4)
    edges = np.cumsum(stack.shares)
    z = 1 - (np.arange(rows) + 0.5) / rows
    exact = stack.kinds[np.minimum(np.searchsorted(edges, z), len(edges) - 1)]
    assert (found != exact[:, None]).mean() < 0.006
    assert leaves_along(found == FAT).mean() == pytest.approx(stack.fat_leaves, abs=0.5)


@pytest.mark.parametrize("working", [BENT, SHORT, UNEVEN])
@pytest.mark.parametrize(
    "line", ["envelope 3", "envelope 4", "thirds 4o 3", "halves 5 6", "inverse 3 4"]
)
def test_bends_flaps_and_thickness_keep_the_area(line, working):
    """What is moved about is not made more: the share of fat is that of the paste."""
    assert (cut(line, working).kinds(1500, 600) == FAT).mean() == pytest.approx(0.4, abs=0.006)


@pytest.mark.parametrize("border", [4, 10, 18])
@pytest.mark.parametrize("name", ["envelope", "thirds", "halves", "inverse"])
def test_a_border_keeps_the_volume(name, border):
    """Cut lengthwise at many places across: bare sides and covered middle come to the whole."""
    section = cut(name, Working(border_mm=border))
    random = np.random.default_rng(5)
    points = _Points(*random.random((3, 200_000), dtype="f4"))
    for undo in section._undo:
        undo(points)
    assert (points.kind == FAT).mean() == pytest.approx(0.4, abs=0.006)


def test_a_border_is_bare_at_the_sides():
    found = cut("envelope", Working(border_mm=12)).kinds(400, 400)
    assert not (found[:, 0] == FAT).any()
    assert (found[:, 200] == FAT).any()


@pytest.mark.parametrize(
    "line", ["envelope 2", "envelope 3", "envelope 4", "envelope 4o", "envelope 5"]
)
def test_leaves_go_on_round_a_bend(line):
    """Close to the folded end the topmost and the lowest leaf are one, of dough, without a gap."""
    found = cut(line, BENT).kinds(600, 3000)
    for column in (found[:, 0], found[:, -1]):
        assert column[0] == DOUGH
        assert column[-1] == DOUGH
    middle = leaves_along(found[:, 1400:1600] == FAT)
    edges = [leaves_along(found[:, part] == FAT).mean() for part in (slice(4), slice(-4, None))]
    assert min(edges) < middle.mean()  # a bend has fewer leaves above one another than the flat


def test_a_half_fold_with_a_round_bend_is_the_same_upside_down():
    """Symmetric plan, symmetric section."""
    found = cut("envelope 2", BENT).kinds(400, 500)
    assert (found == found[::-1]).mean() > 0.995


@given(
    st.sampled_from([2, 3, 4, 5, 6]),
    st.floats(0, 0.1),
    st.floats(0, 0.2),
    st.floats(0, 0.5),
    st.booleans(),
)
@settings(max_examples=40)
def test_every_fold_comes_from_the_whole_sheet_evenly(panels, bend, short, uneven, off):
    """Points spread evenly in the block lie evenly in the sheet: nothing doubled, nothing lost."""
    step = Step(Way.FOLD, panels, off_centre=off and panels == 4)
    fold = Fold(step, bend, short, uneven)
    random = np.random.default_rng(3)
    x, y, z = random.random((3, 120_000), dtype="f4")
    fold.back(x, y, z, np.full(x.shape, 255, np.uint8), 255)
    for place in (x, z):
        assert 0 <= place.min() <= place.max() <= 1
        shares = np.histogram(place, bins=8, range=(0, 1))[0] / len(place)
        np.testing.assert_allclose(
            shares, 1 / 8, atol=0.04
        )  # a short flap beside a bend is the worst


def test_runs_of_a_fold_cover_the_sheet_once():
    for panels in range(2, 7):
        runs = runs_of(Step(Way.FOLD, panels))
        assert sorted(run.level for run in runs) == list(range(panels))
    off = runs_of(Step(Way.FOLD, 4, off_centre=True))
    assert sum(abs(run.end - run.start) for run in off) == 4
    shortened = runs_of(Step(Way.FOLD, 3), 0.1)
    assert sum(abs(run.end - run.start) for run in shortened) == pytest.approx(2.8)


def test_flaps_that_fall_short_leave_fewer_leaves_there():
    """By hand: of 111 mm two ends of 15 mm have two panels; rolled level they are 10 mm each."""
    whole = leaves_along(cut("envelope 3").kinds(900, 300) == FAT)
    short = leaves_along(cut("envelope 3", SHORT).kinds(900, 300) == FAT)
    assert set(whole) == {3}
    assert set(short) == {2, 3}
    assert (short == 2).mean() == pytest.approx(20 / (111.1 - 10), abs=0.02)


def test_uneven_rolling_makes_unlike_leaves_of_the_same_number():
    found = cut("envelope 3", UNEVEN).kinds(3000, 200) == FAT
    assert set(leaves_along(found)) == {3}
    shares = found.mean(axis=0)
    assert shares.mean() == pytest.approx(0.4, abs=0.005)


def test_a_coil_is_round_until_it_is_pressed():
    round_ = cut("coil", Working(coil_mm=3), final=False)
    assert round_.round
    found = round_.kinds(800, 800)
    assert (found == VOID).mean() == pytest.approx(1 - np.pi / 4, abs=0.005)
    assert (found == FAT).sum() / (found != VOID).sum() == pytest.approx(0.4, abs=0.005)
    flat = cut("coil", Working(coil_mm=3)).kinds(800, 800)
    assert not (flat == VOID).any()
    assert (flat == FAT).mean() == pytest.approx(0.4, abs=0.01)


def test_a_log_of_laminated_sheet_keeps_its_leaves():
    """One sheet of three leaves rolled up: every winding brings three of fat."""
    section = cut("envelope 3 r@3", final=False)
    found = section.kinds(3000, 400)
    across = leaves_along(found == FAT)[200]
    length = 1_000_000 / (300 * 3)
    assert across == pytest.approx(3 * 2 * (length / (np.pi * 3)) ** 0.5, rel=0.06)


def test_what_is_strewn_in_lies_between_the_panels():
    found = cut("envelope 3 4", strewn=((2, 0.05),)).kinds(2000, 100)
    assert (found == STREWN).mean() == pytest.approx(0.05 / 1.05, abs=0.003)
    assert (found == FAT).sum() / (found != STREWN).sum() == pytest.approx(0.4, abs=0.005)
    assert leaves_along(found == FAT).mean() == pytest.approx(12)
    # Four panels, each with a layer on top: face to face two are one, so two layers are left
    # within and none outside (by hand: levels 1-0 up, up-down; 3-2 alike).
    assert set(leaves_along(found == STREWN)) <= {2, 3, 4}


def test_a_trim_takes_the_bend_away():
    """Ten millimetres off the folded edges of a block with bends of at most that leave it plain."""
    plain = cut("envelope 3").kinds(600, 200)
    bent = cut("envelope 3", BENT).kinds(600, 200)
    trimmed = cut("envelope 3 t16f", BENT).kinds(600, 200)
    assert (bent != plain).mean() > 0.002
    assert (trimmed != plain).mean() < (bent != plain).mean() / 2


def test_windows_and_seeds():
    section = cut("pieces 3 4", BENT)
    whole = section.kinds(400, 200)
    np.testing.assert_array_equal(
        section.kinds(100, 50, Window(0.25, 0.5, 0.5, 0.75)), whole[100:200, 50:100]
    )
    np.testing.assert_array_equal(cut("pieces 3 4", BENT).kinds(400, 200), whole)


@pytest.mark.parametrize(
    ("line", "working", "share", "says"),
    [
        ("envelope 3", Working(), 0.0, "volume is 0"),
        ("envelope 3", Working(), 1.0, "volume is 1"),
        ("envelope 3", Working(), float("nan"), "volume is nan|above 0"),
        ("envelope 3", Working(border_mm=100), 0.9, "leaves no room"),
        ("envelope +3", Working(), 0.4, "start the line"),
        ("coil", Working(coil_mm=30), 0.4, None),
        ("envelope 3 r@100", Working(), 0.4, "is too short to roll up once; roll it thinner"),
    ],
)
def test_what_cannot_be_cut_says_so(line, working, share, says):
    if says is None:
        assert cut(line, working, share).kinds(10, 10).shape == (10, 10)
        return
    with pytest.raises(AplombError, match=says):
        cut(line, working, share)


def test_fifteen_sixes_are_still_carried_back():
    """470 thousand million leaves: pixels are those of the middle of each, counts stay exact."""
    found = cut("envelope" + " 6" * 15).kinds(50, 50)
    assert set(np.unique(found)) <= {DOUGH, FAT}
