"""All sheets of a formula: for the bench and for a tray, and what the plan says of the batch."""

import pytest
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.kitchen.cut_plan import sheets_of, taken, trays_of
from aplomb.core.paste.product import Cutting, Product
from aplomb.core.study.study import make_study


def on_a_tray(plain, **changes):
    cutting = Cutting(edge_mm=10, relax_along_pct=0, relax_across_pct=0, lies_on="tray")
    batch = replace(plain.batch, broken_pct=0.0, loss_pct=0.0, fixed="pieces")
    return replace(plain, cutting=replace(cutting, **changes), batch=batch)


def test_a_sheet_for_a_tray_by_hand(plain, known):
    """A tray of 580 × 380 leaves 560 × 360 inside the edges: 15 squares of 100 mm, so 45 of them
    are three sheets; on the bench they are one."""
    square = Product("square", length_mm=100, width_mm=100, wanted=45)
    formula = replace(on_a_tray(plain), products=(square,))
    house = replace(known.house, tray_long_mm=580.0, tray_wide_mm=380.0)
    known = replace(known, house=house)
    (plan,) = sheets_of(make_study(formula, known), house).plans
    assert plan.sheets == 3
    assert plan.counts() == [15]
    sizes = sorted((plan.sheet.length_mm, plan.sheet.width_mm))
    assert sizes == pytest.approx([320, 520])
    bench = replace(formula, cutting=replace(formula.cutting, lies_on="bench"))
    assert sheets_of(make_study(bench, known), house).plans[0].sheets == 1


def test_a_sheet_for_a_tray_lies_either_way_and_draws_back_first(plain, known):
    """300 mm with the grain fit the tray only lengthwise; rolled, a sheet is longer than its
    tray."""
    strip = Product("strip", length_mm=540, width_mm=60, grain="across", wanted=5)
    formula = replace(on_a_tray(plain, relax_along_pct=10.0), products=(strip,))
    house = replace(known.house, tray_long_mm=580.0, tray_wide_mm=380.0)
    known = replace(known, house=house)
    (plan,) = sheets_of(make_study(formula, known), house).plans
    assert plan.sheet.width_mm <= 580
    assert plan.sheet.length_mm <= 380
    assert plan.rolled.length_mm == pytest.approx(plan.sheet.length_mm / 0.9)
    assert sum(plan.lacking()) == 0


def test_a_piece_larger_than_the_tray_is_told(plain, known):
    wide = Product("slab", length_mm=700, width_mm=300, wanted=2)
    formula = replace(on_a_tray(plain), products=(wide,))
    house = replace(known.house, tray_long_mm=580.0, tray_wide_mm=380.0)
    known = replace(known, house=house)
    with pytest.raises(AplombError, match="the largest sheet here leaves 560 × 360"):
        sheets_of(make_study(formula, known), known.house)


def test_every_gram_of_the_sheets_is_somewhere(demo, known):
    """Pieces + edges + what is between + what is cut out and not used = the sheets."""
    for formula in demo:
        study = make_study(formula, known)
        if not any(p.wanted for p in formula.products):
            with pytest.raises(AplombError, match="No pieces ordered"):
                sheets_of(study, known.house)
            continue
        sheets = sheets_of(study, known.house)
        pieces = sum(sheets.grams(p, p.pieces_mm2) * p.sheets for p in sheets.plans)
        assert pieces + sheets.scrap_g == pytest.approx(sheets.sheets_g)
        assert sheets.lacking == 0
        assert 0 < sheets.trim_pct < 60


def test_the_batch_is_what_the_cut_plan_needs(demo, known):
    """What is rolled out weighs what the sheets weigh, in as many blocks; a sheet that is kept
    changes nothing of it, and other numbers are cut from more of the same."""
    formula = demo[0]
    study = make_study(formula, known)
    sheets = sheets_of(study, known.house)
    made = make_study(taken(formula, sheets), known)
    for each in (study, made):
        assert each.scaled.rolled_g == pytest.approx(sheets.sheets_g, rel=1e-9)
        assert each.scaled.blocks == sheets.blocks
    more = tuple(replace(p, wanted=2 * p.wanted) for p in formula.products)
    twice = make_study(replace(taken(formula, sheets), products=more), known)
    assert twice.cut.plans[0].sheet == sheets.plans[0].sheet
    assert twice.cut.lacking == 0
    assert twice.scaled.blocks == 2 * sheets.blocks
    before = {o.key for o in make_study(formula, known).opinions}
    assert {o.key for o in made.opinions} <= before, "nobody is warned of the plan's own figures"
    again = sheets_of(made, known.house, made.formula.batch.blocks)
    assert again.lacking == 0
    assert again.sheets_g == pytest.approx(sheets.sheets_g, rel=1e-6)


def test_a_paste_without_weight_has_no_sheet(plain, known):
    bare = replace(plain, dough=(), block=(), products=(Product("x", wanted=3),))
    with pytest.raises(AplombError, match="no weight"):
        sheets_of(make_study(bare, known), known.house)


def test_two_thicknesses_find_blocks_of_their_own(plain, known):
    products = (
        Product("thick", wanted=20, sheet_mm=4.0),
        Product("thin", wanted=20, sheet_mm=2.0),
    )
    study = make_study(replace(plain, products=products), known)
    sheets = sheets_of(study, known.house, 5)
    assert [p.sheet.height_mm for p in sheets.plans] == [2.0, 4.0]
    assert sheets.blocks == sum(p.blocks for p in sheets.plans)
    kept = taken(study.formula, sheets)
    assert kept.cutting == study.formula.cutting, "one sheet cannot stand for two thicknesses"


def test_all_pieces_of_a_batch_are_on_trays(demo, known):
    for formula in demo:
        study = make_study(formula, known)
        trays = trays_of(study, known.house)
        assert sum(t.pieces for t in trays) == study.scaled.pieces
        for tray in trays:
            if tray.a_tray:
                assert (tray.trays - 1) * tray.a_tray + tray.last == tray.pieces
