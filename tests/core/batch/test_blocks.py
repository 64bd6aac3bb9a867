"""Blocks: what there is room for, and how many make it fit."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.core.base.house import House
from aplomb.core.batch.blocks import beyond, fitting_blocks, sized_block
from aplomb.core.folds.step import Way
from aplomb.core.study.study import make_study


def known_demo(house=None):
    book, known = demo(), reference()
    pantry = known.pantry.holding(book.items)
    return book.formulas, replace(known, pantry=pantry, house=house or book.house)


def of_paste(formula, grams, **changes):
    batch = replace(formula.batch, fixed="paste", paste_g=grams, blocks=1)
    return replace(formula, batch=batch, products=(), **changes)  # no cut plan divides it


@pytest.mark.parametrize("grams", [900, 1700, 3000, 5000])
@pytest.mark.parametrize("number", range(7))
def test_no_sheet_of_the_demo_is_narrowed_or_out_of_proportion(number, grams):
    """Common practice: a sheet is 1 to 1.5 times as wide as the folded block lies across, and
    about as many times as long as the block was wide as the fold has panels."""
    formulas, known = known_demo()
    study = make_study(of_paste(formulas[number], grams), known)
    before = study.enclosing.done
    for step, size in zip(study.plan.turns, study.worked.turns, strict=True):
        if step.way is Way.FOLD:
            assert 0.999 <= size.sheet.width_mm / before.length_mm <= 1.501
            assert 0.6 <= size.sheet.length_mm / before.width_mm / step.panels <= 1.6
        before = size.block


def test_a_block_of_eight_kilos_is_divided():
    """The house rolls up to 5 kg: two blocks of 4, and there is room for each."""
    formulas, known = known_demo(House())
    formula = of_paste(formulas[0], 8000)
    study = make_study(formula, known)
    heavy = next(o for o in study.opinions if o.key == "block_heavy")
    assert "8.0 kg" in heavy.why
    assert heavy.action.label == "Make 2 blocks"
    assert study.enclosing.done.length_mm == pytest.approx(study.enclosing.done.width_mm)


@given(st.integers(0, 6), st.floats(500, 60_000), st.floats(600, 2500), st.floats(300, 900))
def test_the_blocks_that_are_proposed_fit_and_one_less_does_not(number, grams, bench, deep):
    house = House(bench_mm=bench, bench_deep_mm=deep)
    formulas, known = known_demo(house)
    formula = of_paste(formulas[number], grams)
    study = make_study(formula, known)
    args = (formula, study.plan, study.accounts, study.scaled.factor, house)
    blocks = fitting_blocks(*args, 1)
    if blocks is None:
        return
    each = study.scaled.factor / blocks
    assert beyond(*sized_block(formula, study.plan, study.accounts, each, house), house) == ()
    if 1 < blocks <= 15:
        fewer = study.scaled.factor / (blocks - 1)
        heavy = study.accounts.paste_g * fewer > house.block_most_g
        sized = sized_block(formula, study.plan, study.accounts, fewer, house)
        assert heavy or beyond(*sized, house)


def test_a_width_that_narrows_is_told_and_let_go():
    """By hand: the block lies about 29 cm across; 18 cm would be 0.6 times."""
    formulas, known = known_demo()
    study = make_study(replace(formulas[0], roll_width_mm=180), known)
    found = next(o for o in study.opinions if o.key == "width_against_block")
    assert found.claim == "Narrower than the block"
    assert found.action.formula.roll_width_mm == 0
    assert not any(o.key == "width_against_block" for o in make_study(formulas[0], known).opinions)
