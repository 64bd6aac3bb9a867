"""Leaf counts: closed forms (calculation), the trade's check values (common practice), and what
must hold for any plan."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.counts import DOUGH, FAT, count
from aplomb.core.folds.pieces_form import pieces_at_start
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.stack import MOST_LEAVES, enclosed, folded, merged, stack_of
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.turn_line import parse_plan

SHEETS = (Enclosure.ENVELOPE, Enclosure.THIRDS, Enclosure.HALVES, Enclosure.INVERSE)
folds = st.lists(
    st.one_of(
        st.builds(Step, st.just(Way.FOLD), st.integers(2, 6)),
        st.just(Step(Way.QUARTER, 4)),
        st.just(Step(Way.REST)),
    ),
    max_size=5,
).map(tuple)
stacked = st.lists(
    st.one_of(
        st.builds(Step, st.just(Way.FOLD), st.integers(2, 4)),
        st.builds(Step, st.just(Way.STACK), st.integers(2, 5)),
    ),
    max_size=4,
).map(tuple)


@pytest.mark.parametrize(
    ("line", "fat", "dough", "leaves"),
    [  # check values of the trade, each an exact count [calculation]
        ("envelope 3 3 3 3 3 3", 729, 730, 1459),
        ("envelope 3 4 / 3 4", 144, 145, 289),
        ("halves 3 4 3 4", 144, 145, 289),
        ("thirds 4 4 4", 128, 129, 257),
        ("thirds 3 3 3 3 3", 486, 487, 973),
        ("inverse 4 4 3", 49, 48, 97),
        ("envelope 3 3 3 3 3", 243, 244, 487),
        ("envelope", 1, 2, 3),
        ("none 3 3", 0, 1, 1),
        ("envelope q", 4, 5, 9),
    ],
)
def test_check_values(line, fat, dough, leaves):
    found = count(parse_plan(line))
    assert (found.fat, found.dough, found.leaves) == (fat, dough, leaves)


@given(st.sampled_from(SHEETS), folds)
@settings(max_examples=100)
def test_closed_forms_hold_for_any_plan_of_folds(enclosure, steps):
    """Envelope and halves: P, P + 1; thirds: 2P, 2P + 1; inverse: P + 1, P."""
    plan = Plan(enclosure, steps)
    p, found = plan.product, count(plan)
    expected = {
        Enclosure.ENVELOPE: (p, p + 1),
        Enclosure.HALVES: (p, p + 1),
        Enclosure.THIRDS: (2 * p, 2 * p + 1),
        Enclosure.INVERSE: (p + 1, p),
    }[enclosure]
    assert found.product == p
    assert (found.fat, found.dough) == expected
    assert found.leaves == sum(expected)


@given(st.sampled_from(SHEETS), st.one_of(folds, stacked), st.floats(0.05, 0.95))
@settings(max_examples=100)
def test_the_stack_has_the_leaves_that_are_counted_and_keeps_its_volume(enclosure, steps, share):
    plan = Plan(enclosure, steps)
    found = count(plan)
    stack = stack_of(plan, share)
    if found.leaves > MOST_LEAVES:
        assert stack is None
        return
    assert (stack.fat_leaves, stack.dough_leaves) == (found.fat, found.dough)
    assert stack.fat_share == pytest.approx(share, rel=1e-9)
    assert stack.shares.sum() == pytest.approx(1, rel=1e-9)
    assert (stack.shares > 0).all()
    assert (stack.kinds[1:] != stack.kinds[:-1]).all()


@given(st.sampled_from(SHEETS), folds, st.floats(0.1, 0.9))
@settings(max_examples=100)
def test_folds_of_a_symmetric_start_are_symmetric(enclosure, steps, share):
    stack = stack_of(Plan(enclosure, steps), share)
    if stack is not None:
        np.testing.assert_array_equal(stack.kinds, stack.kinds[::-1])
        np.testing.assert_allclose(stack.shares, stack.shares[::-1], rtol=1e-9)


def test_like_meets_like_and_thickness_is_kept():
    """Hand calculation: d f d (30, 40, 30 %) folded in half is d f d f d with a double middle."""
    stack = folded(enclosed(Enclosure.ENVELOPE, 0.4), Step(Way.FOLD, 2))
    assert stack.kinds.tolist() == [DOUGH, FAT, DOUGH, FAT, DOUGH]
    np.testing.assert_allclose(stack.shares, [0.15, 0.2, 0.3, 0.2, 0.15])


def test_cut_and_stack_lays_top_on_bottom():
    asymmetric = merged(np.array([FAT, DOUGH], np.uint8), np.array([1.0, 1.0]))
    piled = folded(asymmetric, Step(Way.STACK, 3))
    assert piled.kinds.tolist() == [FAT, DOUGH] * 3
    # The middle panel as it lies, then both flaps turned over on it (common practice): only the
    # first two meet face to face.
    creased = folded(asymmetric, Step(Way.FOLD, 3))
    assert creased.kinds.tolist() == [FAT, DOUGH, FAT, DOUGH, FAT]
    zigzag = folded(asymmetric, Step(Way.FOLD, 5))
    assert zigzag.kinds.tolist() == [FAT, DOUGH] * 3


def test_a_leaf_of_nothing_is_no_leaf():
    stack = enclosed(Enclosure.ENVELOPE, 0.0)
    assert (stack.fat_leaves, stack.dough_leaves) == (0, 1)


def test_forty_turns_are_counted_exactly_and_not_drawn():
    plan = Plan(Enclosure.ENVELOPE, (Step(Way.FOLD, 6),) * 40)
    assert count(plan).fat == 6**40
    assert stack_of(plan, 0.4) is None


def test_counting_only_the_first_steps():
    plan = parse_plan("envelope 3 / 4 3")
    assert [count(plan, n).fat for n in range(5)] == [1, 3, 3, 12, 36]


@pytest.mark.parametrize("line", ["coil", "envelope +3", "envelope 3 r"])
def test_what_has_no_whole_leaves_says_so(line):
    with pytest.raises(AplombError, match="only be averaged|start the line"):
        count(parse_plan(line))


def test_shares_outside_nothing_to_all_are_refused():
    for share in (-0.1, 1.1, float("nan")):
        with pytest.raises(AplombError, match="0 to 1"):
            enclosed(Enclosure.ENVELOPE, share)
    with pytest.raises(AplombError, match="not a stack of sheets"):
        enclosed(Enclosure.PIECES, 0.4)


def test_pieces_at_the_start():
    """Hand calculation: 40 % of 60 mm is 24 mm of fat, 12 mm at a time: two."""
    assert pieces_at_start(0.4, 60, 12) == pytest.approx(2)
    with pytest.raises(AplombError, match="above 0 mm"):
        pieces_at_start(0.4, 0, 12)


def test_portions_by_hand():
    """Dough; fat on two thirds, the bare third over first: d f d f d. Each portion step makes
    three panels, fat on two of them, so fat grows as 3 n + 2: 2, 8, 26; a plain single then has
    3 × 26 fat and merges two doughs."""
    plan = parse_plan("portions +3 +3 / +3 3")
    assert [count(plan, n).fat for n in (0, 1, 2, 4, 5)] == [0, 2, 8, 26, 78]
    assert [count(plan, n).dough for n in (0, 1, 2, 4, 5)] == [1, 3, 9, 27, 79]
    first = stack_of(plan, 0.3, 1)
    assert list(first.kinds) == [0, 1, 0, 1, 0]
    # a third of the fat: 0.1 on 0.7 of dough, over two of three panels; the doughs stay alike
    assert first.shares[1] == pytest.approx(first.shares[3])
    assert first.shares[0] == pytest.approx(first.shares[2])
    assert first.fat_share == pytest.approx(0.1 / 0.8)


def test_half_a_sheet_is_spread_for_a_fold_in_two():
    """Bare half over: d f d; once more: dfd F | dfd turned over = d f d F d f d."""
    plan = parse_plan("portions +2 +2")
    assert list(stack_of(plan, 0.4, 1).kinds) == [0, 1, 0]
    assert list(stack_of(plan, 0.4).kinds) == [0, 1, 0, 1, 0, 1, 0]


@given(
    st.lists(st.sampled_from(["+2", "+3", "+4", "2", "3", "4", "/"]), min_size=1, max_size=5),
    st.floats(0.05, 0.6),
)
@settings(max_examples=80)
def test_portions_stack_and_count_alike_and_keep_the_fat(steps, share):
    plan = parse_plan("portions " + " ".join(steps))
    stack = stack_of(plan, share)
    counted = count(plan)
    assert (stack.fat_leaves, stack.dough_leaves) == (counted.fat, counted.dough)
    assert stack.fat_share == pytest.approx(share if plan.portions else 0.0)


def test_a_portion_on_the_middle_panel_only():
    """By hand: fat on the middle panel lies below; both bare flaps come on top of it and merge."""
    assert list(stack_of(parse_plan("portions +3::2-2"), 0.4).kinds) == [DOUGH, FAT, DOUGH]
    assert list(stack_of(parse_plan("portions +3::3-3"), 0.4).kinds) == [DOUGH, FAT, DOUGH]
    assert (
        count(parse_plan("portions +4::2-3")).fat
        == stack_of(parse_plan("portions +4::2-3"), 0.4).fat_leaves
    )
