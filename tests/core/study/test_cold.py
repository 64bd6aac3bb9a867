"""The cold of a formula: its bodies, its rests, and what the second opinion says of them."""

import pytest
from msgspec.structs import replace

from aplomb.core.base.places import Place
from aplomb.core.paste.bodies import bodies_of, freezing_of
from aplomb.core.paste.line import Line
from aplomb.core.study.cold import cold_of, places_beside, rests_of_plan
from aplomb.core.study.cold_rules import COLD_RULES, cold_opinions, listed
from aplomb.core.study.study import make_study


def found(formula, known, **house):
    own = replace(known, house=replace(known.house, **house))
    study = make_study(formula, own)
    return cold_of(study, own.pantry, own.house)


def said(formula, known, **house):
    own = replace(known, house=replace(known.house, **house))
    study = make_study(formula, own)
    return {o.key: o for o in cold_opinions(study, own.pantry, own.house)}


def test_bodies_are_what_the_formula_says(plain, pantry):
    bodies = bodies_of(plain, pantry)
    assert bodies.range_c == (12, 16)  # butter
    assert bodies.paste.fat.latent_kj_kg == pytest.approx(85, rel=0.02)
    assert bodies.paste.fat.sfc[0] == (0.0, pytest.approx(68, abs=0.1))
    assert bodies.fat.freezing is None
    assert bodies.dough.fat is None
    assert bodies.dough.freezing.starts_c == bodies.paste.freezing.starts_c


def test_the_freezing_point_of_a_dough_is_that_of_its_salt(plain, pantry):
    """2 % salt in 50 % water on flour: -3.1 °C [recalled]; by hand from 1.86 K·kg/mol."""
    point = bodies_of(plain, pantry).dough.freezing.starts_c
    assert point == pytest.approx(-3.1, abs=0.25)
    lines = [(line.grams, pantry[line.material]) for line in plain.dough]
    unsalted = freezing_of([each for each in lines if each[1].group != "salt"], 1520)
    sweet = freezing_of([*lines, (100.0, pantry["sugar"])], 1620)
    assert unsalted.starts_c > -0.5
    assert sweet.starts_c < point - 0.8
    assert freezing_of([(100.0, pantry["plain_flour"])], 100) is None, "flour's own water is bound"


def test_every_rest_of_a_plan_is_there(plain, known):
    formula = replace(plain, turn_line="dough/30 fat/10@freezer envelope 3 4 / 3 4 /60 shaped/20")
    rests = rests_of_plan(make_study(formula, known), known.house, (12, 16))
    assert [r.of for r in rests] == ["dough", "fat", "paste", "paste", "shaped"]
    assert [r.place.kind for r in rests] == ["fridge", "freezer", "fridge", "fridge", "fridge"]
    block = make_study(formula, known).block_after(2)
    assert rests[2].thickness_mm == pytest.approx(block.height_mm)


def test_a_rest_without_minutes_is_worked_out(plain, known):
    first, second = (
        r
        for r in found(replace(plain, turn_line="envelope 3@8 4@8 / 3@8 4@8 /20-40"), known)
        if r.rest.of == "paste"
    )
    assert first.least_min == pytest.approx(max(20, first.ready.start.usual))
    assert first.most_min >= first.ready.end.usual
    assert (second.least_min, second.most_min) == (20, 40)
    thick = next(
        r
        for r in found(replace(plain, turn_line="envelope 3@14 4@14 / 3 4"), known)
        if r.rest.of == "paste"
    )
    assert thick.least_min > first.least_min


def test_paste_without_a_fat_that_can_be_rolled_says_nothing(plain, known):
    oil = replace(plain, block=(Line("sunflower_oil", 500),))
    assert found(oil, known) == ()
    assert said(oil, known) == {}


LINE = "envelope 3@9 4@9 {} 3@9 4@9 /45"


@pytest.mark.parametrize(
    ("rest", "key"),
    [
        ("/5", "rest_too_short"), ("/180", "rest_too_long"),
        ("/40@freezer", "freezer_beyond_window"), ("/25@freezer", "freezer_beyond_window"),
    ],
)  # fmt: skip
def test_rests_that_do_not_fit_are_told_and_mended(plain, known, rest, key):
    formula = replace(plain, turn_line=LINE.format(rest))
    told = said(formula, known)
    assert key in told
    assert told[key].place == 3
    mended = told[key].action.formula
    assert key not in said(mended, known)
    assert mended.plan.product == formula.plan.product


def test_rests_that_fit_are_not_spoken_of(plain, known):
    quiet = said(replace(plain, turn_line=LINE.format("/40")), known)
    assert quiet == {}
    night = said(replace(plain, turn_line=LINE.format("/600")), known)
    assert "rest_too_long" not in night, "a night is meant"
    assert said(replace(plain, turn_line=LINE.format("/")), known) == {}


def test_dough_and_fat_that_are_not_equally_firm(plain, known):
    formula = replace(plain, turn_line="dough/120 fat/1 envelope 3 4 / 3 4 /45", dough_c=14.0)
    told = said(formula, known)
    assert "bodies_unequally_firm" in told
    assert "bodies_unequally_firm" not in said(told["bodies_unequally_firm"].action.formula, known)


def test_a_hot_room_keeps_paste_out_too_long(plain, known):
    formula = replace(plain, turn_line="envelope 3@8 4@8 4@8 / 4@8 /45")
    places = (*known.house.places[:2], Place("Bench", "room", under="stone", wrapped=False))
    assert "out_too_long" in said(formula, known, shop_c=32.0, places=places)
    assert "out_too_long" not in said(formula, known, shop_c=17.0)


def test_a_house_in_which_nothing_is_ever_ready(plain, known):
    warm = (Place("Fridge", "fridge", 18.0), Place("Bench", "room", wrapped=False))
    told = said(replace(plain, turn_line=LINE.format("/40")), known, places=warm)
    assert told["no_place_is_right"].mark == "wrong"


def test_sugar_that_waits_for_the_cold(plain, known):
    formula = replace(
        plain,
        turn_line="envelope 3@12 4@12 / 3@12 4@12 /",
        between=(Line("sugar", 60, turn=1),),
    )
    assert "sugar_waits_for_cold" in said(formula, known)
    assert "sugar_waits_for_cold" not in said(replace(formula, between=()), known)


def test_shaped_pieces_in_the_room(plain, known):
    told = said(replace(plain, turn_line=LINE.format("/40") + " shaped/20@room"), known)
    assert told["shaped_pieces_warm"].action.formula.plan.shaped_rest.place == ""


def test_places_are_put_side_by_side(plain, known):
    study = make_study(plain, known)
    bodies = bodies_of(plain, known.pantry)
    rest = next(r for r in rests_of_plan(study, known.house, (12, 16)) if r.of == "paste")
    assert [p.kind for p, _ in places_beside(rest, bodies, known.house)] == ["fridge", "freezer"]


def test_every_rule_of_the_cold_is_listed_once():
    keys = [key for key, _, _ in listed()]
    assert len(set(keys)) == len(keys) == len(COLD_RULES)
    assert all(words.startswith("Say that") for _, words, _ in listed())
