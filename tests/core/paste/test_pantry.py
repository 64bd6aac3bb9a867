"""The pantry: sound data, and found by the names people use."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.assets.shipped import reference
from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.quantity import parse_amount
from aplomb.core.paste.ingredient import Ingredient, to_grams
from aplomb.core.paste.pantry import Pantry


def test_there_is_enough_to_choose_from(pantry):
    assert len(pantry) >= 25
    for group in ("flour", "starch", "fat", "liquid", "egg", "salt", "sugar", "acid", "binder"):
        assert any(material.group == group for material in pantry), group


def test_every_composition_is_sound(pantry):
    for material in pantry:
        c = material.composition
        fractions = [getattr(c, name) for name in c.__struct_fields__]
        assert all(0 <= f <= 1 and math.isfinite(f) for f in fractions), material.key
        assert 0.9 < c.total <= 1.0001, material.key
        assert material.source, material.key


def test_butters_meet_codex_cxs_279(pantry):
    """Codex CXS 279-1971: butter at least 80 % milk fat, at most 16 % water, at most 2 % milk
    solids-not-fat."""
    for key in ("butter", "butter_salted", "butter_high_fat"):
        c = pantry[key].composition
        assert c.fat >= 0.80
        assert c.water <= 0.16
        assert c.protein + c.carbohydrate + c.ash <= 0.02
        assert pantry[key].standing == "std"
        assert "CXS 279" in pantry[key].source


def test_margarines_meet_codex_cxs_256(pantry):
    """Codex CXS 256-2007: margarine at least 80 % fat; below that it is a fat spread."""
    for key in ("pastry_margarine", "cake_margarine"):
        assert pantry[key].composition.fat >= 0.80
    assert "fat spread" in pantry["table_margarine"].source


def test_gluten_is_declared_where_it_is(pantry):
    """Trade fact: wheat, spelt, barley and rye hold gluten; rice, maize, buckwheat do not."""
    for key in ("plain_flour", "strong_flour", "spelt_flour", "barley_flour", "rye_flour"):
        assert pantry[key].has_gluten, key
    for key in ("rice_flour", "gf_blend", "buckwheat_flour", "maize_starch", "sorghum_flour"):
        assert not pantry[key].has_gluten, key
    assert "milk" in pantry["butter"].allergens
    assert "egg" in pantry["egg_dried"].allergens


def test_oil_cannot_be_enclosed_and_solid_fats_can(pantry):
    assert pantry["rapeseed_oil"].enclose_c is None
    for key in ("butter", "pastry_margarine", "shortening", "lard"):
        low, high = pantry[key].enclose_c
        assert low < high


@pytest.mark.parametrize(
    ("words", "key"),
    [
        ("plain flour", "plain_flour"), ("Plain Wheat Flour", "plain_flour"),
        ("butter", "butter"), ("salted butter", "butter_salted"), ("water", "water"),
        ("cornflour", "maize_starch"), ("lard", "lard"), ("dried whole egg", "egg_dried"),
        ("plain_flour", "plain_flour"), ("shortening", "shortening"),
    ],
)  # fmt: skip
def test_found_by_the_names_people_use(pantry, words, key):
    assert pantry.named(words).key == key


def test_an_unclear_or_unknown_name_says_what_there_is(pantry):
    with pytest.raises(AplombError, match="could be"):
        pantry.named("margarine")
    with pytest.raises(AplombError, match="has no “unobtainium”"):
        pantry.named("unobtainium")
    with pytest.raises(AplombError, match="no ingredient"):
        pantry["unobtainium"]


def test_search_puts_the_beginning_first(pantry):
    assert pantry.search("but")[0].name.startswith("Butter")
    assert pantry.search("zzz") == []
    assert len(pantry.search("")) == len(pantry)


def test_a_cup_of_flour_is_what_cooks_weigh(pantry):
    """Common practice: a US cup of plain flour weighs about 120–130 g, of water 236–237 g."""
    cup = parse_amount("1 cup")
    assert 115 < to_grams(cup, pantry["plain_flour"], None, "1 cup") < 135
    assert to_grams(cup, pantry["water"], None, "1 cup") == pytest.approx(236.5, abs=0.7)
    assert 225 < to_grams(cup, pantry["butter"], None, "1 cup") < 230


def test_what_cannot_become_grams_is_refused(pantry):
    no_measure = Ingredient("x", "Thing", "other", pantry["butter"].composition)
    for text, flour, says in (
        ("1 cup", None, "weigh it"),
        ("10 %", None, "no flour yet"),
        ("3 cm", 100.0, "length"),
    ):
        with pytest.raises(AmountError, match=says):
            to_grams(parse_amount(text), no_measure, flour, text)
    assert to_grams(parse_amount("10 %"), no_measure, 500.0, "10 %") == 50


@given(st.lists(st.sampled_from("abeflourbutter rice no7,"), max_size=12))
def test_searching_letter_by_letter_finds_what_a_fresh_search_finds(letters):
    known = reference().pantry
    fresh = Pantry(list(known))
    typed = ""
    for letter in letters:
        typed += letter
        known.search(typed)
    assert known.search(typed) == fresh.search(typed)
    assert known.search(typed[:-1]) == Pantry(list(known)).search(typed[:-1])
