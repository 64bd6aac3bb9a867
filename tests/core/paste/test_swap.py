"""Swaps keep what they promise, by hand-worked examples with plain compositions."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets.shipped import reference
from aplomb.core.base.errors import AplombError
from aplomb.core.paste.accounts import account
from aplomb.core.paste.formula import Formula, Part
from aplomb.core.paste.ingredient import Share
from aplomb.core.paste.line import Line
from aplomb.core.paste.swap import holds_for, reblend, swap
from aplomb.core.readings.choices import likely_fats, main_fat

SALTED = Formula(
    "Salted",
    dough=(Line("plain_flour", 1000), Line("water", 500), Line("salt", 10)),
    block=(Line("butter_salted", 1000),),
)


def grams(formula, material):
    return sum(n.grams for _, _, n in formula.all_lines() if n.material == material)


def test_salted_butter_to_shortening_by_hand(pantry):
    """1000 g salted butter (80.6 fat, 16 water, 1.6 salt): 806 g shortening, 160 g water and
    16 g salt given back."""
    made = swap(SALTED, pantry, Part.BLOCK, 0, "shortening", "fat")
    assert grams(made.formula, "shortening") == pytest.approx(806, abs=0.1)
    assert grams(made.formula, "water") == pytest.approx(660, abs=0.1)
    assert grams(made.formula, "salt") == pytest.approx(26, abs=0.1)
    assert (made.water_g, made.salt_g) == (pytest.approx(160, abs=0.1), pytest.approx(16, abs=0.1))
    assert made.short == ()


def test_unsalted_butter_to_pastry_margarine_by_hand(pantry):
    """850 × 0.82 / 0.806 = 864.76 g; water 136 → 147.0, so 11.0 comes out; salt 10.38 comes out
    of the dough's 18."""
    formula = Formula(
        "x",
        dough=(Line("plain_flour", 1000), Line("water", 500), Line("salt", 18)),
        block=(Line("butter", 850),),
    )
    made = swap(formula, pantry, Part.BLOCK, 0, "pastry_margarine", "fat")
    assert made.put_g == pytest.approx(864.76, abs=0.1)
    assert made.water_g == pytest.approx(-(864.764 * 0.17 - 136), abs=0.1)
    assert made.salt_g == pytest.approx(-864.764 * 0.012, abs=0.1)


def test_water_to_cream_at_equal_water_by_hand(pantry):
    """500 g water is in 500 / 0.58 = 862.07 g whipping cream; its 0.6 g salt comes out."""
    made = swap(SALTED, pantry, Part.DOUGH, 1, "cream_whipping", "water")
    assert made.put_g == pytest.approx(862.07, abs=0.1)
    assert made.salt_g == pytest.approx(-862.07 * 0.0007, abs=0.1)


def test_whole_egg_to_dried_at_equal_protein_by_hand(pantry):
    """100 g egg has 12.5 g protein: 26.32 g dried; 76 g water less 0.79 in it is given back."""
    formula = SALTED.with_lines(Part.DOUGH, (*SALTED.dough, Line("egg_whole", 100)))
    made = swap(formula, pantry, Part.DOUGH, 3, "egg_dried", "protein")
    assert made.put_g == pytest.approx(26.316, abs=0.01)
    assert made.water_g == pytest.approx(76 - 26.316 * 0.03, abs=0.1)


def test_vinegar_to_lemon_at_equal_acid_by_hand(pantry):
    """50 g vinegar of 5 % holds 2.5 g acetic acid; lemon juice 5.5 % citric counts as 5.5 % ×
    60.052 / 64.041 = 5.157 % acetic: 48.47 g."""
    formula = SALTED.with_lines(Part.DOUGH, (*SALTED.dough, Line("vinegar_cider", 50)))
    made = swap(formula, pantry, Part.DOUGH, 3, "lemon_juice", "acid")
    assert made.put_g == pytest.approx(48.47, abs=0.05)


def test_half_of_a_line(pantry):
    made = swap(SALTED, pantry, Part.BLOCK, 0, "lard", "fat", 0.5)
    assert [n.material for n in made.formula.block] == ["butter_salted", "lard"]
    assert grams(made.formula, "butter_salted") == 500
    assert grams(made.formula, "lard") == pytest.approx(403 / 0.997, abs=0.1)
    more = swap(made.formula, pantry, Part.BLOCK, 0, "lard", "fat", 0.5)
    assert len(more.formula.block) == 2  # the lard that is there grows


FATS = ["butter", "butter_salted", "butter_sheet", "pastry_margarine", "shortening", "lard"]


@given(st.sampled_from(FATS), st.sampled_from(FATS), st.floats(0.05, 1), st.floats(100, 2000))
def test_fat_water_and_salt_are_kept_and_a_circle_ends_where_it_began(old, new, share, mass):
    pantry = reference().pantry
    formula = Formula(
        "x",
        dough=(Line("plain_flour", 1000), Line("water", 900), Line("salt", 60)),
        block=(Line(old, mass),),
    )
    if old == new:
        with pytest.raises(AplombError, match="already"):
            swap(formula, pantry, Part.BLOCK, 0, new, "fat", share)
        return
    made = swap(formula, pantry, Part.BLOCK, 0, new, "fat", share)
    one, two = account(formula, pantry), account(made.formula, pantry)
    assert two.pure_fat_g == pytest.approx(one.pure_fat_g, abs=0.1)
    assert two.salt_g == pytest.approx(one.salt_g, abs=0.1)
    assert two.dough_water_g + two.block_water_g == pytest.approx(
        one.dough_water_g + one.block_water_g, abs=0.1
    )
    if share == 1:
        back = swap(made.formula, pantry, Part.BLOCK, 0, old, "fat").formula
        assert back.block[0].grams == pytest.approx(mass, abs=0.01)
        assert back.dough[1].grams == pytest.approx(900, abs=0.05)


def test_what_cannot_be_given_back_is_said(pantry):
    formula = Formula("x", dough=(Line("plain_flour", 1000),), block=(Line("lard", 800),))
    made = swap(formula, pantry, Part.BLOCK, 0, "butter_salted", "fat")
    assert any("salt" in words for words in made.short)
    assert any("water" in words for words in made.short)
    lean = Formula("x", dough=(Line("plain_flour", 1000),), block=(Line("butter_salted", 800),))
    given_back = swap(lean, pantry, Part.BLOCK, 0, "lard", "fat")
    # 128 g came with the butter; 646.7 g lard brings 1.3 of it itself
    assert grams(given_back.formula, "water") == pytest.approx(128 - 1.29, abs=0.1)


@pytest.mark.parametrize(
    ("index", "material", "hold", "share", "says"),
    [
        (1, "shortening", "water", 1, "Shortening, all-purpose has hardly any water"),
        (1, "cream_whipping", "acid", 1, "Water has hardly any acid"),
        (1, "milk_whole", "water", 0, "above 0"),
        (1, "milk_whole", "water", 2, "not 200 %"),
        (1, "milk_whole", "water", float("nan"), "above 0"),
        (1, "water", "water", 1, "this already"),
        (1, "nothing", "water", 1, "the pantry has no"),
    ],
)
def test_swaps_that_cannot_be(index, material, hold, share, says, pantry):
    with pytest.raises(AplombError, match=says):
        swap(SALTED, pantry, Part.DOUGH, index, material, hold, share)


def test_reblending_by_hand(pantry):
    """806 g pure fat as half lard, half butter by weight: 806 / (0.5 × 0.82 + 0.5 × 0.997)."""
    made = reblend(SALTED, pantry, (Share("butter", 0.5), Share("lard", 0.5)))
    each = 806 / (0.82 + 0.997)
    assert [n.grams for n in made.formula.block] == pytest.approx([each, each])
    one, two = account(SALTED, pantry), account(made.formula, pantry)
    assert two.pure_fat_g == pytest.approx(one.pure_fat_g)
    assert two.salt_g == pytest.approx(one.salt_g)
    assert two.dough_water_g + two.block_water_g == pytest.approx(
        one.dough_water_g + one.block_water_g
    )


@pytest.mark.parametrize(
    ("shares", "says"),
    [
        ((), "at least one share"),
        ((Share("salt", 1.0),), "only fats"),
        ((Share("lard", 0.4),), "add up to 40 %"),
        ((Share("lard", 1.4),), "not 140 %"),
    ],
)
def test_blocks_that_cannot_be_blended(shares, says, pantry):
    with pytest.raises(AplombError, match=says):
        reblend(SALTED, pantry, shares)
    with pytest.raises(AplombError, match="no fat yet"):
        reblend(Formula("x"), pantry, (Share("lard", 1.0),))


def test_the_likeliest_other_fats(demo, pantry, known):
    for formula in demo:
        found = likely_fats(formula, pantry, known.house, 100)
        assert len(found) == 4
        one = account(formula, pantry)
        main = formula.block[main_fat(formula, pantry)].material
        for choice in found:
            assert choice.material != main
            assert choice.fat.enclose_c
            two = account(choice.swapped.formula, pantry)
            assert two.pure_fat_g == pytest.approx(one.pure_fat_g, abs=0.1)
    assert likely_fats(Formula("x"), pantry, known.house) == ()
    cheaper = next(
        c
        for c in likely_fats(demo[0], pantry, known.house, 100)
        if c.material == "pastry_margarine"
    )
    assert 0.4 < cheaper.cost_ratio < 0.9  # margarine costs under half of butter in the demo


def test_the_sensible_hold_comes_first(pantry):
    def first(old, new):
        return holds_for(pantry[old], pantry[new])[0]

    assert first("butter", "lard") == "fat"
    assert first("water", "milk_whole") == "water"
    assert first("egg_whole", "egg_dried") == "protein"
    assert first("vinegar_cider", "lemon_juice") == "acid"
    assert first("plain_flour", "strong_flour") == "weight"
    assert "water" not in holds_for(pantry["butter"], pantry["shortening"])


def test_outside_the_paste_nothing_is_given_back(pantry):
    formula = SALTED.with_lines(Part.FINISH, (Line("milk_whole", 100),))
    made = swap(formula, pantry, Part.FINISH, 0, "egg_whole", "weight")
    assert made.formula.dough == SALTED.dough


# What is given back, as it is reported


FLOUR_ONLY = Formula(
    "Flour only", dough=(Line("plain_flour", 1000),), block=(Line("butter_salted", 1000),)
)


def test_a_swap_that_moves_no_water_or_salt_reports_none(pantry):
    made = swap(SALTED, pantry, Part.DOUGH, 0, "strong_flour", "weight")
    assert (made.water_g, made.salt_g, made.short) == (0.0, 0.0, ())
    assert made.formula.dough[1:] == SALTED.dough[1:]


def test_water_and_salt_are_given_lines_of_their_own_where_there_are_none(pantry):
    """1000 g salted butter brought 160 g water and 16 g salt."""
    made = swap(FLOUR_ONLY, pantry, Part.BLOCK, 0, "shortening", "fat")
    assert [n.material for n in made.formula.dough] == ["plain_flour", "salt", "water"]
    assert grams(made.formula, "water") == pytest.approx(160, abs=0.01)
    assert grams(made.formula, "salt") == pytest.approx(16, abs=0.01)
    assert made.water_g == pytest.approx(160, abs=0.01)
    assert made.salt_g == pytest.approx(16, abs=0.01)


def test_water_too_much_that_no_line_can_lose_is_said(pantry):
    """850 g butter to margarine brings 11 g more water and 10.4 g salt; the dough has neither."""
    formula = replace(FLOUR_ONLY, block=(Line("butter", 850),))
    made = swap(formula, pantry, Part.BLOCK, 0, "pastry_margarine", "fat")
    assert (made.water_g, made.salt_g) == (0.0, 0.0)
    assert made.formula.dough == formula.dough
    assert made.short == (
        "10.4 g too much salt is left, because the dough has no more salt to take out",
        "11 g too much water is left, because the dough has no more water to take out",
    )


def test_water_is_taken_down_to_nothing_and_the_rest_is_said(pantry):
    formula = replace(
        FLOUR_ONLY,
        dough=(Line("plain_flour", 1000), Line("water", 5), Line("salt", 4)),
        block=(Line("butter", 850),),
    )
    made = swap(formula, pantry, Part.BLOCK, 0, "pastry_margarine", "fat")
    assert grams(made.formula, "water") == 0.0
    assert grams(made.formula, "salt") == 0.0
    assert made.water_g == -5.0
    assert made.salt_g == -4.0
    assert made.short == (
        "6.4 g too much salt is left, because the dough has no more salt to take out",
        "6 g too much water is left, because the dough has no more water to take out",
    )


def test_the_largest_water_gives_and_takes(pantry):
    lines = (Line("plain_flour", 1000), Line("water", 100), Line("water", 400), Line("salt", 9))
    made = swap(replace(FLOUR_ONLY, dough=lines), pantry, Part.BLOCK, 0, "shortening", "fat")
    assert [round(n.grams) for n in made.formula.dough] == [1000, 100, 560, 25]
