"""From a wanted leaf to plans: every plan found fits, none that fits is missed, and it is quick."""

from itertools import combinations_with_replacement, pairwise

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.claims import SHEETS
from aplomb.core.folds.counts import count
from aplomb.core.folds.finder import MOST_FOUND, Wanted, find_plans
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.turn_line import parse_plan

FULL = Wanted(low_um=8, high_um=12, sheet_mm=3.0, fat_share=0.469)
"""Full paste: 144 leaves in 3 mm are 9.8 µm (0.469 × 3000 / 144, by hand)."""


def test_full_paste_by_hand():
    found = find_plans(FULL)
    best = found[0]
    assert sorted(step.panels for step in best.plan.turns) == [3, 3, 4, 4]
    assert best.fat_leaves == 144
    assert best.fat_leaf_um == pytest.approx(0.469 * 3000 / 144)
    assert best.rests == 2
    assert best.minutes == 10 + 4 * 6 + 2 * 30


@given(
    st.floats(1, 30),
    st.floats(1.1, 4),
    st.floats(2, 5),
    st.floats(0.2, 0.6),
    st.sampled_from(SHEETS),
    st.sets(st.sampled_from([2, 3, 4, 5, 6]), min_size=1),
    st.integers(1, 5),
)
@example(2.6937665670756425, 1.125, 2.6937665670756425, 0.2, Enclosure.THIRDS, {2, 3, 4, 5}, 3)
@example(2.6937665670756425, 3.0, 2.6937665670756425, 0.2, Enclosure.THIRDS, {2, 3, 4, 5}, 3)
@example(1.0, 3.0, 3.0, 0.2, Enclosure.THIRDS, {2, 3, 4, 5}, 3)
@settings(max_examples=60)
def test_all_that_fit_are_found_and_only_those(low, ratio, sheet, share, enclosure, panels, turns):
    wanted = Wanted(
        low_um=low,
        high_um=low * ratio,
        sheet_mm=sheet,
        fat_share=share,
        enclosures=(enclosure,),
        panels=tuple(sorted(panels)),
        most_turns=turns,
    )
    fitting, at_the_edge = set(), set()
    for many in range(1, turns + 1):
        for folds in combinations_with_replacement(sorted(panels), many):
            plan = Plan(enclosure, tuple(Step(Way.FOLD, n) for n in folds))
            leaf = share * sheet * 1000 / count(plan).fat
            if low <= leaf <= low * ratio:
                fitting.add(folds)
            if min(abs(leaf / low - 1), abs(leaf / (low * ratio) - 1)) < 1e-6:
                at_the_edge.add(folds)  # rounding may say either
    try:
        found = find_plans(wanted)
    except AplombError:
        assert fitting <= at_the_edge
        return
    mine = {tuple(sorted(step.panels for step in f.plan.turns)) for f in found}
    assert mine <= fitting | at_the_edge
    if len(fitting) <= MOST_FOUND:
        assert mine - at_the_edge == fitting - at_the_edge
    for each in found:
        assert low * (1 - 1e-6) <= each.fat_leaf_um <= low * ratio * (1 + 1e-6)
        assert parse_plan(each.plan.line()) == each.plan
        assert 0 <= each.off <= 1 + 1e-9


def test_nearer_the_middle_comes_first_then_fewer_turns():
    found = find_plans(replace(FULL, low_um=5, high_um=20, panels=(2, 3, 4), enclosures=SHEETS))
    steps = [int(f.off / 0.25) for f in found]
    assert steps == sorted(steps)
    for a, b in pairwise(found):
        if int(a.off / 0.25) == int(b.off / 0.25):
            assert a.turns <= b.turns


def test_rests_stand_where_they_are_wanted():
    plan = find_plans(replace(FULL, turns_a_rest=1, rest_min=45))[0].plan
    assert plan.line() == "envelope 3 /45 4 /45 3 /45 4 /45"


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"low_um": 12, "high_um": 8}, "from the smaller figure to the larger"),
        ({"low_um": 0.0}, "from the smaller figure to the larger"),
        ({"high_um": float("nan")}, "from the smaller figure to the larger"),
        ({"fat_share": 0.0}, "no fat block"),
        ({"sheet_mm": 900.0}, "0.1 to 100 mm"),
        ({"most_turns": 40}, "1 to 10 turns"),
        ({"panels": ()}, "at least one fold"),
        ({"panels": (7,)}, "2 to 6 panels"),
        ({"enclosures": (Enclosure.PIECES,)}, "envelope, thirds"),
        ({"turns_a_rest": 0}, "after every 1 to 10 turns"),
        ({"low_um": 400.0, "high_um": 410.0}, "widen the range,"),
        ({"volume_ml": 9000.0, "bench_mm": 600.0}, "600"),
    ],
)
def test_what_cannot_be_found_says_why(changes, says):
    with pytest.raises(AplombError, match=says):
        find_plans(replace(FULL, **changes))
