"""Leaves along a plan of paste in pieces and of logs, worked by hand from the rules of the trade:
a turn multiplies, like leaves that meet become one, a log of N windings is met 2 N times."""

from itertools import pairwise

import pytest

from aplomb.core.folds.counts import count, panel_order
from aplomb.core.folds.means import leaves_along_plan
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.turn_line import parse_plan
from aplomb.core.folds.unfold import bends_of, runs_of


def along(line, pieces=0.0, windings=()):
    return leaves_along_plan(parse_plan(line), pieces, windings)


def test_paste_in_pieces_has_one_dough_leaf_more_than_fat():
    """2 pieces along a line lie between 3 doughs; a double makes 8 and 4 × 3 − 3 = 9."""
    assert along("pieces 4 4 4", 2.0) == [(2, 3), (8, 9), (32, 33), (128, 129)]
    assert along("pieces 3 2", 1.5) == [(1.5, 2.5), (4.5, 5.5), (9, 10)]


def test_rests_and_trims_change_no_leaf():
    assert along("pieces / 4 t10 /30", 2.0) == [(2, 3), (2, 3), (8, 9), (8, 9), (8, 9)]


def test_a_coil_is_met_twice_by_every_winding_and_its_middle_once():
    """Of a sheet with fat on one face the windings lie fat to dough; in the middle the fat, which
    lies inside, meets itself: 5 windings are 9 of fat between 10 of dough. Folded in three, dough
    meets dough twice."""
    assert along("coil", windings=(5.0,)) == [(9, 10)]
    assert along("coil 3", windings=(5.0,)) == [(9, 10), (27, 28)]


@pytest.mark.parametrize(
    ("line", "windings", "last"),
    [
        ("envelope r", (4.0,), (8, 9)),  # d f d, 8 times: 8 fat, 16 − 7 dough
        ("inverse r", (4.0,), (9, 8)),  # f d f: 16 − 7 fat, 8 dough
        ("thirds r", (4.0,), (16, 17)),  # d f d f d: 16 fat, 24 − 7 dough
        ("envelope r r", (3.0, 2.0), (24, 25)),  # 6 and 7, then 24 and 28 − 3
        ("none r", (4.0,), (0, 1)),  # dough alone is one leaf however it is rolled
        ("inverse 3 r", (2.0,), (13, 12)),  # 7 − 3 … : f d f thrice 4 and 3, four times 16 − 3, 12
    ],
)
def test_sheets_that_are_rolled_up(line, windings, last):
    assert along(line, windings=windings)[-1] == last


def test_what_is_not_known_has_no_leaves():
    assert along("coil") is None
    assert along("envelope r") is None
    assert along("envelope r r", windings=(3.0,)) is None
    assert along("pieces +3", 2.0) is None


def test_sheets_are_counted_exactly():
    assert along("envelope 3 4") == [(1, 2), (3, 4), (12, 13)]


# How a double lies. The ends are folded to the middle, so panels 1 and 4 lie face down on 2 and 3;
# then it is closed like a book, so 4 and 3 lie on 1, turned once more (common practice).


def test_a_double_lies_as_a_book_is_closed():
    assert panel_order(Step(Way.FOLD, 4)) == ((1, False), (0, True), (3, False), (2, True))


def test_a_letter_lays_its_second_flap_on_the_first():
    assert panel_order(Step(Way.FOLD, 3)) == ((1, False), (2, True), (0, True))


@pytest.mark.parametrize("panels", [2, 5, 6])
def test_a_zigzag_turns_every_other_panel(panels):
    assert panel_order(Step(Way.FOLD, panels)) == tuple((i, i % 2 == 1) for i in range(panels))


def test_pieces_that_are_stacked_all_lie_face_up():
    assert panel_order(Step(Way.STACK, 4)) == tuple((i, False) for i in range(4))


@pytest.mark.parametrize(
    ("line", "fat", "dough"),
    [
        ("portions +2", 1, 2),  # half is spread, the bare half is laid on it
        ("portions +3", 2, 3),
        # Fat on panels 1 to 3: 2 and 1 meet fat to fat, 1 and 4 bare to bare, 3’s fat lies on 4.
        ("portions +4", 2, 3),
        ("portions +4:100:1", 1, 2),  # between 2 and 1; 1, 4 and 3 meet bare
        ("portions +4:100:2-3", 2, 3),  # 2’s against 1, 3’s on 4; 1 and 4 meet bare
    ],
)
def test_portions_on_a_double_by_hand(line, fat, dough):
    found = count(parse_plan(line))
    assert (found.fat, found.dough) == (fat, dough)


# The runs of a fold, as the section is carried back through them: levels from the bottom up, each
# run from where it begins to where it ends along the block.


def levels(step, short=0.0):
    return [(run.level, run.start, run.end) for run in runs_of(step, short)]


def test_runs_follow_the_sheet_through_its_folds():
    assert levels(Step(Way.FOLD, 2)) == [(0, 0, 1), (1, 1, 0)]
    assert levels(Step(Way.FOLD, 3)) == [(2, 1, 0), (0, 0, 1), (1, 1, 0)]
    assert levels(Step(Way.FOLD, 4)) == [(1, 1, 0), (0, 0, 1), (3, 1, 0), (2, 0, 1)]


def test_a_double_closed_off_the_middle_has_its_seam_beside_the_bend():
    runs = levels(Step(Way.FOLD, 4, off_centre=True))
    assert [level for level, _, _ in runs] == [1, 0, 3, 2, 1]
    assert runs[0][2] == 0
    assert runs[-1][1] == 1
    assert runs[0][1] == runs[-1][2], "the two ends meet at the seam"
    assert 0 < runs[0][1] < 1


@pytest.mark.parametrize("panels", [2, 3, 4, 5, 6])
def test_runs_end_where_the_next_begins_and_bends_are_between_them(panels):
    runs = runs_of(Step(Way.FOLD, panels))
    for one, other in pairwise(runs):
        assert one.end == other.start
    assert len(bends_of(runs)) == panels - 1
    assert sorted(run.level for run in runs) == list(range(panels))


def test_a_flap_that_falls_short_is_shorter_at_its_own_end():
    whole, short = levels(Step(Way.FOLD, 3)), levels(Step(Way.FOLD, 3), 0.1)
    lengths = [[abs(end - start) for _, start, end in runs] for runs in (whole, short)]
    assert lengths[0] == [1, 1, 1]
    assert lengths[1] == pytest.approx([0.9, 1, 0.9])
