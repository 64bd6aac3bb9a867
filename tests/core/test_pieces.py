"""Paste in pieces: the section that is carried back, against the rule it must obey."""

import numpy as np
import pytest

from aplomb.core.errors import AplombError
from aplomb.core.folds.pieces import Mass, Window, leaves_along, panel_order, section
from aplomb.core.folds.plan import Step, Way, parse_plan

MASS = Mass(fat_share=0.4, height_mm=60, length_mm=240, piece_mm=15, seed=3)


@pytest.mark.parametrize("seed", range(4))
def test_the_share_of_fat_is_kept(seed):
    mass = Mass(0.4, 60, 240, 15, seed)
    for line in ("pieces", "pieces 3", "pieces 3 4 3"):
        cut = section(parse_plan(line), mass, 2000, 240)
        assert cut.mean() == pytest.approx(0.4, abs=0.06)


def test_mean_leaves_are_those_at_the_start_times_the_product():
    """Calculation: crossings at the start φ·H/d, multiplied by every fold's panels."""
    starts, folded = [], []
    for seed in range(12):
        mass = Mass(0.4, 60, 240, 15, seed)
        starts.append(leaves_along(section(parse_plan("pieces"), mass, 3000, 300)).mean())
        cut = section(parse_plan("pieces 3 4"), mass, 12_000, 200)
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
        with pytest.raises(AplombError, match="sizes above 0"):
            section(parse_plan("pieces"), mass, 10, 10)
    with pytest.raises(AplombError, match="roll up"):
        section(parse_plan("pieces r"), MASS, 10, 10)
