"""Solving for a wanted reading: by hand where one line gives, and by working the answer out."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets import demo, reference
from aplomb.core.errors import AplombError
from aplomb.core.paste.formula import Formula, Part
from aplomb.core.paste.line import Line
from aplomb.core.solve import Target, solve
from aplomb.core.study import make_study

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
        PLAIN, filling=(Line("apricot_jam", 20),), finish=(Line("egg_whole", 50),),
        batch=replace(PLAIN.batch, fixed="pieces", piece_by=by, pieces=100),
    )  # fmt: skip
    now = reading(formula, "cost_per_piece")
    found = solved(formula, Target("cost_per_piece", 0.9 * now, "at most"))
    assert reading(found.formula, "cost_per_piece") == pytest.approx(0.9 * now, rel=2e-3)


@given(st.floats(40, 120), st.floats(40, 70), st.floats(0.5, 3))
@settings(max_examples=40)
def test_several_wishes_are_all_met(fat, water, salt):
    targets = (
        Target("fat_product_pct", fat), Target("dough_water_pct", water), Target("salt_pct", salt),
    )  # fmt: skip
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
    found = solved(PLAIN, Target("pure_fat_pct", 90), Target("fat_product_pct", 80),
                   Target("salt_pct", 2))  # fmt: skip
    assert found.formula is None
    assert not any("Salt" in words for words in found.conflict)
    assert found.nearest == pytest.approx(80 * 0.82, rel=1e-3)


@pytest.mark.parametrize(
    ("wish", "says"),
    [
        (Target("fat_product_pct", -1), "cannot be wanted"),
        (Target("fat_product_pct", float("nan")), "cannot be wanted"),
        (Target("material_g", 100, material="sugar"), "not in the paste"),
        (Target("material_g", 100, material="nothing"), "no material"),
        (Target("fat_share_pct", 130, material="lard"), "at most 100 %"),
        (Target("fat_share_pct", 30, material="salt"), "no fat"),
    ],
)
def test_wishes_that_cannot_be(target, says):
    with pytest.raises(AplombError, match=says):
        solved(PLAIN, target)
    with pytest.raises(AplombError, match="say what is wanted"):
        solved(PLAIN)


def test_a_missing_price_is_said():
    formula = PLAIN.with_lines(Part.DOUGH, (*PLAIN.dough, Line("xanthan", 5)))
    with pytest.raises(AplombError, match="Xanthan gum has no price"):
        solved(formula, Target("cost_per_piece", 0.1, "at most"))
