"""Paste in pieces: the section that is carried back, against the rule it must obey."""

import numpy as np
import pytest

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.counts import FAT, panel_order
from aplomb.core.folds.enclosing import enclosing
from aplomb.core.folds.evenness import leaves_along
from aplomb.core.folds.pieces import Mass
from aplomb.core.folds.pieces_form import pieces_at_start
from aplomb.core.folds.raster import Paste, Section, Window
from aplomb.core.folds.sizes import worked_sizes
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.turn_line import parse_plan
from aplomb.core.folds.working import Working


def section(plan, mass, rows, columns, window=None, working=None):
    """Cut through a litre of paste in pieces."""
    how = enclosing(plan.enclosure, 600, 400, 12, 200)
    paste = Paste(
        plan, mass.fat_share, how, worked_sizes(plan, 1000, 300), working or Working(), mass
    )
    return Section(paste).kinds(rows, columns, window) == FAT


MASS = Mass(fat_share=0.4, height_mm=60, length_mm=240, piece_mm=15, seed=3)


def test_the_share_of_fat_is_kept():
    """Conserved volume, within the sampling error of one cut through a few dozen pieces."""
    for line in ("pieces", "pieces 3", "pieces 3 4 3"):
        shares = [
            section(parse_plan(line), Mass(0.4, 60, 240, 15, seed), 500, 120).mean()
            for seed in range(12)
        ]
        assert np.mean(shares) == pytest.approx(0.4, abs=3 * np.std(shares) / 12**0.5 + 0.005)


@pytest.mark.parametrize("form", ["cubes", "flakes", "crumbs", "gratings"])
@pytest.mark.parametrize("spread", [0.0, 0.4])
def test_every_form_keeps_its_share_and_meets_a_line_as_often_as_it_should(form, spread):
    """Calculation: φ H / (h E[f³] / E[f²]) crossings, with sizes even within ± the spread."""
    shares, crossings = [], []
    for seed in range(16):
        mass = Mass(0.3, 60, 240, 12, seed, form, spread)
        cut = section(parse_plan("pieces"), mass, 1000, 200)
        shares.append(cut.mean())
        crossings.append(leaves_along(cut).mean())
    assert np.mean(shares) == pytest.approx(0.3, rel=0.12)
    assert np.mean(crossings) == pytest.approx(pieces_at_start(0.3, 60, 12, form, spread), rel=0.18)


def test_mean_leaves_are_those_at_the_start_times_the_product():
    """Calculation: crossings at the start φ·H/d, multiplied by every fold's panels."""
    starts, folded = [], []
    for seed in range(12):
        mass = Mass(0.4, 60, 240, 15, seed)
        starts.append(leaves_along(section(parse_plan("pieces"), mass, 1500, 150)).mean())
        cut = section(parse_plan("pieces 3 4"), mass, 5_000, 120)
        folded.append(leaves_along(cut).mean())
    assert np.mean(starts) == pytest.approx(0.4 * 60 / 15, rel=0.1)
    # Pieces that lie against a crease meet themselves and merge, so a little is lost.
    assert np.mean(folded) / np.mean(starts) == pytest.approx(12, rel=0.12)
    assert np.mean(folded) <= 12 * np.mean(starts)


def test_the_same_seed_gives_the_same_section():
    plan = parse_plan("pieces 3 4")
    np.testing.assert_array_equal(section(plan, MASS, 200, 100), section(plan, MASS, 200, 100))
    other = Mass(0.4, 60, 240, 15, seed=4)
    assert (section(plan, MASS, 200, 100) != section(plan, other, 200, 100)).any()


def test_a_window_is_part_of_the_whole():
    plan = parse_plan("pieces 3 3")
    whole = section(plan, MASS, 400, 200)
    part = section(plan, MASS, 100, 50, Window(0.25, 0.5, 0.5, 0.75))
    np.testing.assert_array_equal(part, whole[100:200, 50:100])


def test_a_half_fold_goes_on_round_its_crease():
    """At the crease, on the right, the two panels are one and the same material."""
    crease = section(parse_plan("pieces 2"), MASS, 400, 2000)[:, -1]
    assert (crease == crease[::-1]).mean() > 0.98


def test_a_stack_of_two_repeats_itself():
    cut = section(parse_plan("pieces s2"), MASS, 400, 200)
    left_half = section(parse_plan("pieces"), MASS, 200, 400)
    assert cut.shape == (400, 200)
    assert cut[200:].mean() == pytest.approx(left_half.mean(), abs=0.25)


def test_panels_lie_as_the_trade_folds_them():
    """Common practice: the letter fold's middle panel is below; the book's halves face."""
    assert panel_order(Step(Way.FOLD, 3)) == ((1, False), (2, True), (0, True))
    assert [panel for panel, _ in panel_order(Step(Way.FOLD, 4))] == [1, 0, 3, 2]
    assert panel_order(Step(Way.FOLD, 5))[1] == (1, True)
    assert panel_order(Step(Way.STACK, 2)) == ((0, False), (1, False))


def test_leaves_along_a_vertical():
    cut = np.array([[1, 0], [1, 0], [0, 1], [1, 0]], dtype=bool)
    assert leaves_along(cut).tolist() == [2, 1]


def test_unusable_masses_are_refused():
    for mass in (Mass(0, 60, 240, 15), Mass(0.99, 60, 240, 15), Mass(0.4, 0, 240, 15)):
        with pytest.raises(AplombError, match=r"sizes above 0|volume is"):
            section(parse_plan("pieces"), mass, 10, 10)
