"""The study: every moment of a plan, with what follows from the batch."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.core.base.errors import AplombError, TurnLineError
from aplomb.core.folds.counts import FAT, count
from aplomb.core.folds.evenness import leaves_along
from aplomb.core.folds.working import Working
from aplomb.core.paste.formula import Batch, Formula, Part
from aplomb.core.paste.line import Line
from aplomb.core.study.explain import explain
from aplomb.core.study.study import make_study


def test_moments_go_through_the_plan(plain, known):
    study = make_study(replace(plain, turn_line="envelope 3@9 / 4 q"), known)
    assert [(t.step, t.product, t.fat_leaves) for t in study.turns] == [
        (-1, 1, 1),
        (0, 3, 3),
        (1, 3, 3),
        (2, 12, 12),
        (3, 48, 48),
    ]
    assert [t.size is not None for t in study.turns] == [False, True, False, True, True]
    assert study.turns[1].size.sheet.height_mm == 9


def test_the_last_moment_is_the_reading(demo, known):
    for formula in demo:
        study = make_study(formula, known)
        assert study.turns[-1].fat_leaves == pytest.approx(study.readings.fat_leaves)
        assert study.turns[-1].product == study.readings.product
        if not study.plan.leaves_are_means:
            assert study.readings.fat_leaves == count(study.plan).fat
            assert study.stack().fat_leaves == study.readings.fat_leaves


def test_sizes_are_of_one_block_of_the_batch(plain, known):
    """Calculation: the same paste in four blocks has a quarter of the volume in each."""
    whole = make_study(replace(plain, batch=Batch(paste_g=8000)), known)
    quarter = make_study(replace(plain, batch=Batch(paste_g=8000, blocks=4)), known)
    one, four = whole.turns[1].size, quarter.turns[1].size
    assert one.sheet.volume_ml == pytest.approx(4 * four.sheet.volume_ml)
    assert one.sheet.volume_ml * whole.accounts.density_g_ml == pytest.approx(8000)


@given(st.floats(0.05, 20), st.integers(1, 12))
@settings(max_examples=20)
def test_mass_is_kept_from_the_scale_to_the_last_fold(factor, least):
    for formula in demo().formulas:
        batch = replace(formula.batch, fixed="paste", paste_g=1000 * factor, blocks=least)
        study = make_study(replace(formula, batch=batch), reference())
        density, each_g = study.accounts.density_g_ml, study.scaled.each_g
        if study.enclosing is None:  # a border wider than so small a sheet: said, not guessed
            assert "border" in study.fold_trouble
            continue
        boxes = [box for turn in study.worked.turns for box in (turn.sheet, turn.block)]
        if study.plan.portions:  # the fat comes step by step: all of it is there in the last block
            boxes = boxes[-1:]
        elif study.plan.rolls_up:  # a log stands in its box as a circle in its square
            round_ = study.enclosing.done.volume_ml * math.pi / 4
            assert round_ * density == pytest.approx(each_g)
        else:
            boxes.append(study.enclosing.done)
        for box in boxes:
            assert box.volume_ml * density == pytest.approx(each_g)


def test_a_plan_that_cannot_be_worked_says_so_and_keeps_the_rest(plain, known):
    study = make_study(replace(plain, turn_line="envelope +3 4"), known)
    assert "start the line with" in study.fold_trouble
    assert study.readings.fat_leaves is None
    assert study.readings.fat_product_pct == pytest.approx(100)
    assert study.stack() is None
    assert study.fold_trouble in explain(study, "fat_leaves")
    for wrong, says in (
        ("portions +3:80 +3:40", "up to 120 %"),
        ("portions +3:100 +3", "must add up to 100 %"),
        ("envelope t200 3", "leaves nothing"),
    ):
        study = make_study(replace(plain, turn_line=wrong), known)
        assert says in study.fold_trouble
        assert study.readings.fat_product_pct == pytest.approx(100)


def test_a_coil_has_two_windings_across_for_each_that_was_rolled(plain, known):
    """L = π N² t: leaves along the line through the middle are 2 N of dough and, as the fat meets
    itself in the middle, 2 N - 1 of fat."""
    study = make_study(replace(plain, turn_line="coil", roll_width_mm=300), known)
    length = study.enclosing.dough.length_mm
    many = (length / (math.pi * study.formula.working.coil_mm)) ** 0.5
    assert study.readings.fat_leaves == pytest.approx(2 * many - 1)
    assert study.readings.dough_leaves == pytest.approx(2 * many)
    assert study.readings.leaves_are_means
    assert f"{many:.1f} windings" in explain(study, "fat_leaves")
    assert study.enclosing.done.height_mm == pytest.approx(2 * many * 2.0)
    assert make_study(Formula("x", turn_line="coil"), known).readings.fat_leaves is None


def test_forty_sixes_are_counted_and_not_drawn(plain, known):
    study = make_study(replace(plain, turn_line="envelope" + " 6" * 40), known)
    assert study.readings.fat_leaves == 6**40
    assert study.readings.fat_leaf_um < 1e-20
    assert study.stack() is None


def test_explanation_of_pieces(known, demo):
    rough = next(f for f in demo if f.school == "rough")
    words = explain(make_study(rough, known), "fat_leaves")
    assert "55 mm gathered thickness ÷ 16 mm pieces" in words
    assert "× 3 × 3 × 4 × 3" in words


def test_what_is_not_in_the_pantry_or_cannot_be_read_is_refused(plain, known):
    with pytest.raises(AplombError, match="no ingredient “gold”"):
        make_study(plain.with_lines(Part.BLOCK, (Line("gold", 5),)), known)
    with pytest.raises(TurnLineError):
        make_study(replace(plain, turn_line="x"), known)


def test_the_trades_example_of_three_percent(known, demo):
    """Common practice: the demo pastes lie where the trade's ranges put them."""
    by_school = {f.school: make_study(f, known).readings for f in demo}
    assert 75 <= by_school["classic"].fat_product_pct <= 110
    assert 60 <= by_school["rough"].fat_product_pct <= 80
    assert 60 <= by_school["gluten_free"].dough_water_pct <= 75


def test_every_school_has_a_band_for_every_headline_figure(known):
    keys = {
        "fat_product_pct",
        "fat_on_dough_pct",
        "dough_water_pct",
        "salt_pct",
        "fat_leaves",
        "fat_leaf_um",
    }
    for school in known.schools.values():
        assert set(school.bands) == keys
        for band in school.bands.values():
            assert band.axis_low < band.low < band.high < band.axis_high
            assert band.words


def test_portions_are_worked_like_any_plan(plain, known):
    """26 leaves of fat after three portions (2, 8, 26, by hand); the volume grows as they come."""
    study = make_study(replace(plain, turn_line="portions +3 +3 / +3"), known)
    assert study.readings.fat_leaves == 26
    assert study.readings.dough_leaves == 27
    assert study.stack().fat_share == pytest.approx(study.readings.fat_volume_share)
    sizes = [turn.size for turn in study.turns if turn.size]
    each = study.scaled.factor / study.formula.batch.blocks
    dough, block = study.accounts.dough_ml * each, study.accounts.block_ml * each
    assert sizes[0].sheet.volume_ml == pytest.approx(dough)
    for i, size in enumerate(sizes, 1):
        assert size.block.volume_ml == pytest.approx(dough + block * i / 3)


def test_portions_without_a_portion_say_so(plain, known):
    study = make_study(replace(plain, turn_line="portions 3 3"), known)
    assert "add a step like +3" in study.fold_trouble


def test_a_section_part_of_the_way_is_the_stack_part_of_the_way(known):
    """In portions the fat comes step by step: both ways of working agree at every moment."""
    formula = next(f for f in demo().formulas if f.turn_line.startswith("portions"))
    formula = replace(formula, working=Working(), turn_line="portions +3:50 +3 /30 +2 4")
    study = make_study(formula, known)
    for upto in range(1, 6):
        stack = study.stack(upto)
        cut = study.section(upto, final=False).kinds(3000, 6)
        share = study.readings.fat_volume_share
        spread = sum(study.plan.portion_shares()[: min(upto, 2) if upto < 4 else 3])
        there = share * spread / (1 - share + share * spread)
        assert (cut == 1).mean() == pytest.approx(there, abs=0.004)
        assert stack.fat_share == pytest.approx(there)
    with pytest.raises(AplombError, match="No portion"):
        study.section(0)


def test_what_is_trimmed_is_weighed(plain, known):
    """By hand: block side a, 10 mm off all edges: 1 - (1 - 20/a)² of the block."""
    study = make_study(replace(plain, turn_line="envelope t10 3 4 / 3 4 /"), known)
    side = study.enclosing.done.length_mm
    share = 1 - (1 - 20 / side) ** 2
    assert study.trimmed_g == pytest.approx(share * study.scaled.paste_g, rel=1e-6)
    assert study.worked.turns[0].sheet.volume_ml == pytest.approx(study.block_ml * (1 - share))
    assert make_study(plain, known).trimmed_g == 0


@pytest.mark.parametrize(
    ("border", "sheet", "line"),
    [
        (0, 2, "coil"),
        (20, 2, "coil"),
        (60, 4, "coil"),
        (0, 4, "coil"),
        (0, 2, "coil 3"),
    ],
)
def test_a_coil_counts_what_is_drawn(plain, known, border, sheet, line):
    """The section's leaves along its middle, the line the count is of, within one for each fold:
    a line meets a whole number of windings, and the count is the mean over all its directions."""
    working = Working(border_mm=border, coil_mm=sheet)
    study = make_study(replace(plain, turn_line=line, roll_width_mm=300, working=working), known)
    cut = study.section(final=False, across=line == "coil 3").kinds(12_000, 101)
    drawn = leaves_along(cut == FAT)[50]
    assert drawn == pytest.approx(study.readings.fat_leaves, abs=1.01 * study.plan.product)
    bare = make_study(
        replace(plain, turn_line=line, roll_width_mm=300, working=Working(coil_mm=sheet)), known
    )
    assert (study.readings.fat_leaves < bare.readings.fat_leaves) == (border > 0)


def test_a_trim_before_a_later_portion_is_taken_off(plain, known):
    """By hand: fat is a share s of all; the first half lies on dough when a trim keeps k of both:
    at the end fat is (k s/2 + s/2) of k (1 - s/2) + s/2. Stack, section and leaf say the same."""
    line = "portions +3:50 t20 +3:50 3"
    study = make_study(replace(plain, turn_line=line), known)
    s, kept = study.readings.fat_volume_share, study.worked.trims[0].kept
    assert kept < 0.9
    end = (kept * s / 2 + s / 2) / (kept * (1 - s / 2) + s / 2)
    assert study.fat_share_after() == pytest.approx(end)
    assert study.stack().fat_share == pytest.approx(end)
    assert study.stack().fat_leaves == study.readings.fat_leaves
    leaf = end * study.formula.sheet_mm * 1000 / study.readings.fat_leaves
    assert study.readings.fat_leaf_um == pytest.approx(leaf)
    cut = study.section().kinds(3000, 120)
    assert (cut == FAT).mean() == pytest.approx(end, abs=0.01)
    plainly = make_study(replace(plain, turn_line=line.replace(" t20", "")), known)
    assert plainly.fat_share_after() == pytest.approx(s)
    assert plainly.stack().fat_share == pytest.approx(s)


@pytest.mark.parametrize("pieces", [1, 2, 4, 8, 30])
@pytest.mark.parametrize("trim", [5, 15, 40])
def test_trims_on_tiny_blocks_settle_or_say_that_they_do_not(plain, known, pieces, trim):
    batch = replace(plain.batch, fixed="pieces", pieces=pieces, piece_g=25, trim_pct=0, loss_pct=0)
    study = make_study(
        replace(plain, batch=batch, turn_line=f"envelope t{trim} 3 t{trim} 3"), known
    )
    if study.fold_trouble:
        assert study.worked.turns == ()
        assert "trim" in study.fold_trouble
        return
    off = sum(each.off_ml for each in study.worked.trims)
    assert study.folded == pytest.approx(off / study.block_ml, abs=1e-6)
    whole = study.scaled.paste_g * (1 - study.folded)
    assert study.scaled.rolled_g == pytest.approx(whole, rel=1e-4)
    assert study.scaled.good >= pieces
