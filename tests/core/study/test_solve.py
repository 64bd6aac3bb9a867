"""Solving for a wanted reading: by hand where one line gives, and by working the answer out."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import set_measures
from aplomb.core.paste.formula import Formula, Part
from aplomb.core.paste.line import Line
from aplomb.core.study.solve import solve
from aplomb.core.study.study import make_study
from aplomb.core.study.wanted import Target

PLAIN = Formula(
    "Plain",
    dough=(Line("plain_flour", 1000), Line("water", 500), Line("salt", 20)),
    block=(Line("butter", 1000),),
)


def known_reference():
    shipped = reference()
    return replace(shipped, pantry=shipped.pantry.holding(demo().items))


def solved(formula, *targets, locked=()):
    known = known_reference()
    return solve(make_study(formula, known), known.pantry, targets, frozenset(locked))


def reading(formula, key):
    return getattr(make_study(formula, known_reference()).readings, key)


def test_fat_on_flour_by_hand():
    """75 % of 1000 g flour is 750 g butter, and nothing else moves."""
    found = solved(PLAIN, Target("fat_product_pct", 75))
    assert found.changed == ((Part.BLOCK, 0, 1000, 750),)


def test_salt_from_all_sources_by_hand():
    """800 g salted butter brings 12.8 g; 1.8 % of 1000 g wants 18: 5.2 g are weighed."""
    formula = PLAIN.with_lines(Part.BLOCK, (Line("butter_salted", 800),))
    found = solved(formula, Target("salt_pct", 1.8), locked=[(Part.BLOCK, 0)])
    assert found.formula.dough[2].grams == pytest.approx(5.2, abs=0.01)


def test_pure_fat_with_half_lard_by_hand():
    """x butter and x lard: 0.82 x + 0.997 x = 600, x = 330.2 g."""
    found = solved(PLAIN, Target("pure_fat_pct", 60), Target("fat_share_pct", 50, material="lard"))
    assert [n.grams for n in found.formula.block] == pytest.approx([330.21, 330.21], abs=0.02)


def test_all_of_a_packet_keeps_the_ratios_that_are_kept():
    keep = [Target("fat_product_pct", 100), Target("dough_water_pct", 50), Target("salt_pct", 2)]
    found = solved(PLAIN, Target("material_g", 2000, material="butter"), *keep)
    assert found.formula.dough[0].grams == pytest.approx(2000, abs=0.1)
    assert found.formula.dough[1].grams == pytest.approx(1000, abs=0.1)
    assert found.formula.dough[2].grams == pytest.approx(40, abs=0.1)


def test_a_cost_limit_holds_for_the_piece():
    formula = replace(PLAIN, batch=replace(PLAIN.batch, fixed="pieces", pieces=100))
    now = reading(formula, "cost_per_piece")
    found = solved(formula, Target("cost_per_piece", 0.8 * now, "at most"))
    assert reading(found.formula, "cost_per_piece") == pytest.approx(0.8 * now, rel=1e-4)
    easy = solved(formula, Target("cost_per_piece", 2 * now, "at most"))
    assert easy.changed == ()


@pytest.mark.parametrize("by", ["weight", "size"])
def test_a_cost_limit_with_filling_and_finish(by):
    formula = replace(
        PLAIN,
        filling=(Line("apricot_jam", 20),),
        finish=(Line("egg_whole", 50),),
        batch=replace(PLAIN.batch, fixed="pieces", piece_by=by, pieces=100),
    )
    now = reading(formula, "cost_per_piece")
    found = solved(formula, Target("cost_per_piece", 0.9 * now, "at most"))
    assert reading(found.formula, "cost_per_piece") == pytest.approx(0.9 * now, rel=2e-3)


@given(st.floats(40, 120), st.floats(40, 70), st.floats(0.5, 3))
@settings(max_examples=40)
def test_several_targets_are_all_met(fat, water, salt):
    targets = (
        Target("fat_product_pct", fat),
        Target("dough_water_pct", water),
        Target("salt_pct", salt),
    )
    found = solved(PLAIN, *targets)
    for target in targets:
        assert reading(found.formula, target.what) == pytest.approx(target.value, rel=1e-4)
    assert found.formula.dough[0].grams == pytest.approx(1000)


def test_what_is_locked_stays_and_what_cannot_be_says_why():
    """1000 g butter and flour locked is 100 %; 75 % cannot be had, and 100 % is nearest."""
    found = solved(PLAIN, Target("fat_product_pct", 75), locked=[(Part.DOUGH, 0), (Part.BLOCK, 0)])
    assert found.formula is None
    assert len(found.conflict) == 3
    assert any("Butter, unsalted is locked at 1000 g" in words for words in found.conflict)
    assert found.nearest == pytest.approx(100)


def test_the_conflict_names_only_what_is_in_the_way():
    found = solved(
        PLAIN, Target("pure_fat_pct", 90), Target("fat_product_pct", 80), Target("salt_pct", 2)
    )
    assert found.formula is None
    assert not any("Salt" in words for words in found.conflict)
    assert found.nearest == pytest.approx(80 * 0.82, rel=1e-3)


@pytest.mark.parametrize(
    ("target", "says"),
    [
        (Target("fat_product_pct", -1), "is not possible"),
        (Target("fat_product_pct", float("nan")), "is not possible"),
        (Target("material_g", 100, material="sugar"), "not in the paste"),
        (Target("material_g", 100, material="nothing"), "“nothing”"),
        (Target("fat_share_pct", 130, material="lard"), "at most, not 130 %"),
        (Target("fat_share_pct", 30, material="salt"), "not a fat"),
    ],
)
def test_targets_that_cannot_be(target, says):
    with pytest.raises(AplombError, match=says):
        solved(PLAIN, target)
    with pytest.raises(AplombError, match="enter what you want,"):
        solved(PLAIN)


def test_a_missing_price_is_said():
    formula = PLAIN.with_lines(Part.DOUGH, (*PLAIN.dough, Line("xanthan", 5)))
    with pytest.raises(AplombError, match="Xanthan gum has no price"):
        solved(formula, Target("cost_per_piece", 0.1, "at most"))


TWO_FATS = PLAIN.with_lines(Part.BLOCK, (Line("butter", 600), Line("lard", 400)))


@pytest.mark.parametrize("share", [0, 20, 55, 80, 100])
@pytest.mark.parametrize("formula", [PLAIN, TWO_FATS])
def test_a_share_is_of_fat_that_stays(formula, share):
    """By hand: 1000 g of fat in the block stay 1000 g; lard is 10 g for each percent."""
    found = solved(formula, Target("fat_share_pct", share, material="lard"))
    block = {n.material: n.grams for n in found.formula.block}
    assert block["lard"] == pytest.approx(10 * share, abs=0.01)
    assert block["butter"] == pytest.approx(1000 - 10 * share, abs=0.01)
    assert found.formula.dough == formula.dough


def test_a_share_beside_a_packet_and_without_keeping_the_fat():
    """By hand: 330 g lard are 55 % of 600 g fat; with fat on flour kept at 100 % that is 600 g
    flour. With the fat let go, the fat still does not vanish."""
    wanted = (
        Target("fat_share_pct", 55, material="lard"),
        Target("material_g", 330, material="lard"),
    )
    found = solved(PLAIN, *wanted)
    assert reading(found.formula, "flour_g") == pytest.approx(600, abs=0.1)
    assert reading(found.formula, "fat_product_pct") == pytest.approx(100)
    known = known_reference()
    free = solve(make_study(PLAIN, known), known.pantry, wanted[:1], keep_fat=False)
    block = {n.material: n.grams for n in free.formula.block}
    assert sum(block.values()) == pytest.approx(1000, abs=0.1)
    assert block["lard"] / sum(block.values()) == pytest.approx(0.55)


@given(
    st.sampled_from(["lard", "butter", "shortening"]),
    st.floats(0, 100),
    st.sampled_from(
        [
            None,
            ("fat_product_pct", 75),
            ("fat_on_dough_pct", 50),
            ("paste_g", 5000),
            ("dough_water_pct", 52),
            ("fat_on_total_pct", 35),
        ]
    ),
)
@settings(max_examples=60, deadline=None)
def test_no_share_is_met_by_emptying_the_block(material, share, other):
    targets = [Target("fat_share_pct", share, material=material)]
    targets += [Target(*other)] if other else []
    found = solved(TWO_FATS, *targets)
    if found.formula is None:
        assert found.conflict
        return
    fat = sum(n.grams for n in found.formula.block)
    assert fat > 50
    there = sum(n.grams for n in found.formula.block if n.material == material)
    assert 100 * there / fat == pytest.approx(share, abs=0.01)


def test_a_share_of_no_fat_is_told():
    with pytest.raises(AplombError, match="no fat to share out yet"):
        solved(PLAIN.with_lines(Part.BLOCK, ()), Target("fat_share_pct", 50, material="lard"))
    only = solved(PLAIN, Target("fat_share_pct", 50, material="butter"))
    assert only.formula is None, "butter is the only fat: it is always 100 %"
    assert only.nearest == pytest.approx(100)


def test_a_reading_that_nothing_brings_is_told():
    with pytest.raises(AplombError, match="nothing in the paste gives acid"):
        solved(PLAIN, Target("acid_pct", 0.2))
    assert solved(PLAIN, Target("acid_pct", 0.2, "at most")).changed == ()


def test_a_limit_on_the_cost_does_not_sell_air():
    """Without fat a piece is cheap, and no puff: some of it is left, or it cannot be."""
    now = reading(PLAIN, "cost_per_piece")
    keep = (Target("dough_water_pct", 50, kept=True), Target("salt_pct", 2, kept=True))
    found = solved(PLAIN, Target("cost_per_piece", 0.02 * now, "at most"), *keep)
    assert found.formula is None
    assert any("stays 50 %" in words or "left" in words for words in found.conflict)
    assert found.nearest > 0.02 * now
    held = solved(PLAIN, Target("cost_per_piece", 1.0001 * found.nearest, "at most"), *keep)
    assert reading(held.formula, "block_g") >= 0.049 * 1000


@given(st.integers(0, 10_000))
@settings(max_examples=25, deadline=None)
def test_the_nearest_is_the_nearest(seed):
    """By hand: butter and 200 g of one flour are locked, the other flour may go; the least flour
    there can be is 200 g, or 5 % of what there was, and that is the most fat on flour."""
    import random

    random_ = random.Random(seed)
    butter, flour = random_.uniform(300, 900), random_.uniform(400, 1200)
    formula = PLAIN.with_lines(
        Part.DOUGH, (Line("plain_flour", flour), Line("strong_flour", 200), Line("water", 400))
    ).with_lines(Part.BLOCK, (Line("butter", butter),))
    wanted = random_.uniform(300, 2000)
    locked = [(Part.BLOCK, 0), (Part.DOUGH, 1)]
    found = solved(formula, Target("fat_product_pct", wanted), locked=locked)
    most = 100 * butter / max(200, 0.05 * (flour + 200))
    if found.formula is not None:
        assert wanted <= most * (1 + 1e-9)
    else:
        assert wanted > most
        assert found.nearest == pytest.approx(most, rel=1e-6)


def test_the_nearest_of_a_weight_and_of_a_price_have_their_units():
    """1000 g butter locked, fat on flour 100 %: there are 1000 g flour, not 600."""
    found = solved(
        PLAIN, Target("flour_g", 600), Target("fat_product_pct", 100), locked=[(Part.BLOCK, 0)]
    )
    assert found.nearest == pytest.approx(1000)


def test_a_share_with_fat_on_total_says_how_much_fat_there_is():
    """1000 g flour, 520 g other dough: 40 % fat on total is 1013.3 g fat, 55 % of it lard."""
    total = Target("fat_on_total_pct", 40)
    found = solved(PLAIN, Target("fat_share_pct", 55, material="lard"), total)
    block = {n.material: n.grams for n in found.formula.block}
    fat = sum(block.values())
    assert reading(found.formula, "fat_on_total_pct") == pytest.approx(40, abs=0.01)
    assert block["lard"] / fat == pytest.approx(0.55, abs=1e-4)


def test_a_weight_that_is_wanted_is_said_in_the_measures_of_the_house():
    target = Target("flour_g", 907.18474)
    assert target.words(known_reference().pantry) == "Flour is 907.2 g"
    set_measures("oz", "mm", "°C")
    try:
        assert target.words(known_reference().pantry) == "Flour is 2 lb"
    finally:
        set_measures("g", "mm", "°C")
