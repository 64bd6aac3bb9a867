"""A gluten-free variant: wheat goes everywhere, masses stay, the rest is in its bands."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.core.base.errors import AplombError
from aplomb.core.paste.accounts import account
from aplomb.core.paste.checking import check
from aplomb.core.paste.formula import Formula, Part, flour_grams
from aplomb.core.paste.gluten_free import (
    BINDERS,
    CAUTION,
    FAMILIES,
    binder_for,
    gluten_lines,
    to_gluten_free,
)
from aplomb.core.paste.ingredient import Share
from aplomb.core.paste.line import Line
from aplomb.core.study.study import make_study

WHEAT = Formula(
    "Wheat",
    dough=(
        Line("plain_flour", 800),
        Line("strong_flour", 200),
        Line("water", 500),
        Line("salt", 18),
        Line("malt_vinegar", 20),
    ),
    block=(Line("butter", 800), Line("plain_flour", 60)),
    dusting=(Line("plain_flour", 30),),
    turn_line="envelope 3@9 4 / 4 /",
)


def test_the_caution_names_its_standard():
    assert "20 mg/kg" in CAUTION
    assert "Codex CXS 118-1979" in CAUTION
    assert "local food law" in CAUTION


@pytest.mark.parametrize("family", FAMILIES, ids=lambda f: f.name)
def test_families_are_whole_and_free(family, pantry):
    assert sum(share.share for share in family.shares) == pytest.approx(1)
    assert len(family.shares) <= 4
    for share in family.shares:
        assert pantry[share.material].is_flour
        assert not pantry[share.material].has_gluten


@pytest.mark.parametrize("binder", BINDERS, ids=lambda b: b.material)
def test_binders_are_guided_in_order(binder, pantry):
    assert 0 < binder.low_pct < binder.usual_pct < binder.high_pct
    assert not pantry[binder.material].has_gluten
    assert binder_for(binder.material) is binder
    assert binder_for("salt") is None


@pytest.mark.parametrize("family", FAMILIES, ids=lambda f: f.name)
def test_wheat_goes_everywhere_and_the_flour_weighs_the_same(family, pantry):
    made = to_gluten_free(WHEAT, pantry, family.shares)
    assert made.left == ()
    assert gluten_lines(made.formula, pantry) == []
    assert flour_grams(made.formula, pantry) == pytest.approx(flour_grams(WHEAT, pantry))
    assert sum(n.grams for n in made.formula.dusting) == 30
    check(made.formula, pantry)


def test_water_binder_acid_and_turns_by_hand(pantry):
    """1060 g flour, 1000 of them in the dough: 65 % water on these is 650 g, less 18.8 of the
    vinegar; 1.2 % xanthan is 12.7 g; malt vinegar at 5 % to spirit vinegar at 6 %: 16.67 g; fours
    become threes."""
    made = to_gluten_free(WHEAT, pantry, FAMILIES[1].shares).formula
    by = {n.material: n.grams for n in made.dough}
    assert by["xanthan"] == pytest.approx(12.7)
    assert by["vinegar_spirit"] == pytest.approx(20 * 0.05 / 0.06)
    assert account(made, pantry).dough_water_g == pytest.approx(0.65 * 1000, abs=0.1)
    assert made.turn_line == "envelope 3@9 3 / 3 /"
    assert made.school == "gluten_free"


def test_a_binder_that_is_there_stays_alone(pantry):
    bound = WHEAT.with_lines(Part.DOUGH, (*WHEAT.dough, Line("psyllium", 30)))
    made = to_gluten_free(bound, pantry, FAMILIES[0].shares).formula
    assert [n.material for n in made.dough if binder_for(n.material)] == ["psyllium"]
    bare = to_gluten_free(WHEAT, pantry, FAMILIES[0].shares, binder="").formula
    assert not any(binder_for(n.material) for n in bare.dough)


def test_what_cannot_be_replaced_is_named(pantry):
    filled = replace(WHEAT, filling=(Line("leek_filling", 40),))
    made = to_gluten_free(filled, pantry, FAMILIES[0].shares)
    assert made.left == ("Leek and barley filling in the filling",)


@pytest.mark.parametrize(
    ("shares", "says"),
    [
        ((), "add up to 0 %"),
        ((Share("rice_flour", 0.5),), "add up to 50 %"),
        ((Share("rice_flour", 1.5), Share("gf_blend", -0.5)), "must add up to 100 %"),
        (
            (Share("rice_flour", 0.5), Share("spelt_flour", 0.5)),
            "spelt flour contains gluten",
        ),
    ],
)
def test_families_that_cannot_be(shares, says, pantry):
    with pytest.raises(AplombError, match=says):
        to_gluten_free(WHEAT, pantry, shares)


def test_doing_it_twice_changes_nothing_more(pantry):
    once = to_gluten_free(WHEAT, pantry, FAMILIES[2].shares).formula
    assert to_gluten_free(once, pantry, FAMILIES[2].shares).formula == once


@given(st.sampled_from(range(4)), st.sampled_from(FAMILIES), st.floats(50, 90))
def test_every_demo_formula_becomes_quiet_about_gluten(number, family, water):
    known = reference()
    formula = replace(demo().formulas[number], filling=())
    made = to_gluten_free(formula, known.pantry, family.shares, water_pct=water)
    study = make_study(made.formula, known)
    keys = {o.key for o in study.opinions}
    assert not keys & {"wheat_in_gluten_free", "binder_missing", "singles_only_gluten_free"}
    assert study.readings.dough_water_pct == pytest.approx(water, abs=0.2)


def test_an_empty_formula_stays_empty(pantry):
    made = to_gluten_free(Formula("x"), pantry, FAMILIES[0].shares)
    assert made.formula.all_lines() == []
