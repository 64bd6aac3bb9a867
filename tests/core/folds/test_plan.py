"""The turn line: read, written, and refused in place."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError, TurnLineError
from aplomb.core.folds.counts import count
from aplomb.core.folds.plan import Enclosure, Plan, step_name, step_word
from aplomb.core.folds.stack import stack_of
from aplomb.core.folds.step import COVERED, Step, Way, panels_near
from aplomb.core.folds.turn_line import parse_plan

steps = st.one_of(
    st.builds(
        Step,
        st.just(Way.FOLD),
        st.integers(2, 6),
        st.none() | st.floats(1, 50).map(lambda x: round(x, 1)),
    ),
    st.builds(Step, st.just(Way.STACK), st.integers(2, 12)),
    st.builds(Step, st.just(Way.PORTION), st.integers(2, 6)),
    st.just(Step(Way.QUARTER, 4)),
    st.just(Step(Way.ROLL)),
    st.builds(lambda m: Step(Way.REST, rest_min=m), st.none() | st.integers(0, 900).map(float)),
)
plans = st.builds(Plan, st.sampled_from(list(Enclosure)), st.lists(steps, max_size=12).map(tuple))


@given(plans)
def test_a_plan_survives_its_line(plan):
    assert parse_plan(plan.line()) == plan
    assert parse_plan("  " + plan.line().upper().replace(" ", "   ") + " ") == plan


@pytest.mark.parametrize(
    ("line", "same"),
    [
        ("ENVELOPE 3 4@8/ 3 4", "envelope 3 4@8 / 3 4"),
        ("envelope 3/30 4", "envelope 3 /30 4"),
        ("inverse 4@8,5", "inverse 4@8.5"),
        ("thirds Q S4 +3 R", "thirds q s4 +3 r"),
        ("none", "none"),
        ("envelope//3", "envelope / /3"),
    ],
)
def test_blanks_and_case_do_not_matter(line, same):
    assert parse_plan(line).line() == same


@pytest.mark.parametrize(
    ("line", "place", "says"),
    [
        ("", (0, 1), "starts with one of"),
        ("enclose 3", (0, 7), "not a way of enclosing; use envelope"),
        ("3 4", (0, 1), "not a way of enclosing"),
        ("envelope 7", (9, 10), "2 to 6"),
        ("envelope 1", (9, 10), "2 to 6"),
        ("envelope 3 x", (11, 12), "not a step; use 2 to 6, 4o, q"),
        ("envelope s13", (9, 12), "2 to 12"),
        ("envelope 3@", (9, 11), "thickness in mm must be"),
        ("envelope 3@0", (9, 12), "0.5 to 100"),
        ("envelope 3@8.5.2", (9, 16), "must be a number"),
        ("envelope /99999999", (9, 18), "0 to 10080"),
        ("envelope 3q", (9, 11), "not a step"),
        ("envelope 99999999999999999999", (9, 29), "2 to 6"),
    ],
)
def test_the_unusable_word_is_pointed_at(line, place, says):
    with pytest.raises(TurnLineError, match=says) as caught:
        parse_plan(line)
    assert (caught.value.start, caught.value.end) == place


def test_a_line_of_ten_thousand_steps_is_refused():
    with pytest.raises(TurnLineError, match="up to 200"):
        parse_plan("envelope " + "3 " * 10_000)


@given(st.text(max_size=60))
def test_any_text_is_read_or_refused(line):
    try:
        parse_plan(line)
    except TurnLineError as error:
        assert 0 <= error.start < error.end
        assert "\n" in error.pointed()


def test_names_are_the_trades():
    assert step_name(Step(Way.FOLD, 3)) == "single, 3 panels"
    assert step_name(Step(Way.FOLD, 4)) == "double, 4 panels"
    assert step_name(Step(Way.REST, rest_min=30)) == "rest 30 min"
    assert step_word(Step(Way.FOLD, 4, rolled_mm=8.0)) == "4@8"
    assert Plan(Enclosure.ENVELOPE, (Step(Way.FOLD, 3), Step(Way.REST))).product == 3


def test_creases_by_hand():
    """Calculation: a single has two creases, a double three, a quarter fold two, a cut none."""
    assert parse_plan("envelope 3 4 / q s4 2").creases == 2 + 3 + 2 + 0 + 1


@pytest.mark.parametrize(
    ("line", "step"),
    [
        ("envelope 4o@9", Step(Way.FOLD, 4, 9.0, off_centre=True)),
        ("portions +3:40", Step(Way.PORTION, 3, share_pct=40.0)),
        ("portions +4:33.5:2@8", Step(Way.PORTION, 4, 8.0, share_pct=33.5, covered=2)),
        ("portions +3::1", Step(Way.PORTION, 3, covered=1)),
        ("portions +4:40:2-3", Step(Way.PORTION, 4, share_pct=40.0, covered=2, begins=2)),
        ("portions +3::3-3", Step(Way.PORTION, 3, covered=1, begins=3)),
        ("envelope t10", Step(Way.TRIM, trim_mm=10.0)),
        ("envelope t7.5f", Step(Way.TRIM, trim_mm=7.5, edges="folded")),
        ("envelope t8r", Step(Way.TRIM, trim_mm=8.0, edges="rolled")),
    ],
)
def test_further_words_are_read_and_written_again(line, step):
    plan = parse_plan(line.upper())
    assert plan.steps == (step,)
    assert plan.line() == line
    assert parse_plan(plan.line()) == plan


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("envelope 3o", "only a double"),
        ("envelope s4o", "only a double"),
        ("envelope 3:40", "only a portion"),
        ("portions +3:", None),
        ("portions +3:0", "1 to 100"),
        ("portions +3:101", "1 to 100"),
        ("portions +3:40:4", "1 to 3"),
        ("portions +3:40:3-2", "1 to 2"),
        ("portions +3:40:2-", "the last of the panels"),
        ("envelope t", "must be a number"),
        ("envelope t0", "0.5 to 200"),
        ("envelope t10x", "not a step"),
        ("envelope qo", "not a step"),
    ],
)
def test_further_words_that_cannot_be_used(line, says):
    if says is None:
        assert parse_plan(line).steps[0].share_pct is None
        return
    with pytest.raises(TurnLineError, match=says):
        parse_plan(line)


def test_portions_share_what_is_left():
    assert parse_plan("portions +3 +3").portion_shares() == (0.5, 0.5)
    assert parse_plan("portions +3:40 +3 / +3").portion_shares() == pytest.approx((0.4, 0.3, 0.3))
    assert parse_plan("portions +3:40 +3:60").portion_shares() == pytest.approx((0.4, 0.6))
    for line in ("portions +3:40 +3:40", "portions +3:60 +3:60", "portions +3:100 +3"):
        with pytest.raises(AplombError, match="100 %"):
            parse_plan(line).portion_shares()


def test_a_trim_is_no_turn():
    plan = parse_plan("envelope 3 t10 4")
    assert len(plan.turns) == 2
    assert plan.product == 12
    assert plan.creases == 5


@pytest.mark.parametrize(
    ("panels", "third", "half", "two_thirds"),
    [(2, 1, 1, 1), (3, 1, 2, 2), (4, 1, 2, 3), (5, 2, 3, 3), (6, 2, 3, 4)],
)
def test_portions_lie_on_a_third_half_or_two_thirds_of_the_sheet(panels, third, half, two_thirds):
    """By hand, to the nearest panel: of six 2, 3 and 4; of four 1, 2 and 3 (2.67)."""
    found = [panels_near(share, panels) for _, share in COVERED]
    assert found == [third, half, two_thirds]
    assert len(Step(Way.PORTION, panels).spread_on) == two_thirds


def test_a_portion_on_two_thirds_of_a_six_fold_is_counted():
    """By hand, from the order of the flaps: dough panels with fat on the first four of six; each
    even panel is turned over, so that fat meets fat between 1 and 2 and between 3 and 4."""
    assert count(parse_plan("portions +6")).fat == 2
    assert stack_of(parse_plan("portions +6"), 0.4).fat_leaves == 2
    assert count(parse_plan("portions +6::1")).fat == 1
