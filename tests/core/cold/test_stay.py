"""Stays in the places of a house: ready from when to when, how long out, what a rest does."""

import pytest
from msgspec.structs import replace

from aplomb.core.base.composition import Composition, mixed
from aplomb.core.base.errors import AplombError, FormulaError
from aplomb.core.base.house import House, check_house
from aplomb.core.base.places import Place, usual_coefficient
from aplomb.core.cold.course import Air, Body, Slab, crossing
from aplomb.core.cold.material import Freezing, Melting, Mixture
from aplomb.core.cold.readiness import (
    after,
    bends_at,
    first_then,
    match,
    out_of_cold,
    ready,
    through_middle,
)
from aplomb.core.cold.stay import Stay, body_of, faces, follow

FLOUR = Composition(water=0.14, fat=0.012, protein=0.11, carbohydrate=0.7, fibre=0.03, ash=0.006)
BUTTER = Composition(water=0.16, fat=0.82, protein=0.008, carbohydrate=0.007, ash=0.002)
SFC = ((0, 68), (5, 60), (10, 52), (15, 38), (20, 20), (25, 12), (30, 5), (35, 0))
PASTE = Mixture(
    mixed([(100, FLOUR), (50, Composition(water=1)), (2, Composition(salt=1)), (100, BUTTER)]),
    Melting(SFC, 85.0),
    Freezing(-3.1, (64 - 21.5) / 252),
)
HOUSE = House()
FRIDGE, FREEZER, BENCH = HOUSE.places
DAY = 1440.0


def window(thick, place, house=HOUSE, start=20.0):
    return ready(Body(PASTE, thick), start, [Stay(place, DAY)], house, 12, 16)


def test_the_band_holds_the_usual_and_both_schools_of_setting_fat():
    """From no latent heat in the quickest fridge to all of it in the slowest."""
    found = window(30, FRIDGE)
    assert found.start.low < found.start.usual < found.start.high
    assert found.start.usual == pytest.approx(57, abs=1)
    assert found.start.low < 41  # quicker than without any latent heat in the usual fridge
    assert found.core_c == pytest.approx(16.0, abs=0.1)
    assert found.skin_c < found.mean_c < found.core_c


def test_a_small_block_is_quicker_and_its_band_holds_it():
    slab = window(40, FRIDGE)
    small = ready(Body(PASTE, 40, 120, 150), 20, [Stay(FRIDGE, DAY)], HOUSE, 12, 16)
    assert small.start.usual < slab.start.usual
    assert small.start.low < small.start.usual < small.start.high
    ratio = small.start.usual / slab.start.usual
    assert small.start.high == pytest.approx(ratio * slab.start.high, rel=0.03)


def test_the_freezer_never_makes_it_ready_and_the_skin_says_why():
    found = window(30, FREEZER)
    assert found.never
    assert found.coldest_c < 12
    way = first_then(Body(PASTE, 30), 20, FREEZER, FRIDGE, HOUSE, 12, 16)
    assert way.start_min < window(30, FRIDGE).start.usual
    both = ready(
        Body(PASTE, 30), 20, [Stay(FREEZER, way.first_min), Stay(FRIDGE, 600)], HOUSE, 12, 16
    )
    assert both.start.usual == pytest.approx(way.start_min, abs=0.5)


def test_thick_takes_longer_and_moving_air_less():
    thin, thick = window(15, FRIDGE), window(30, FRIDGE)
    assert thin.start.usual < thick.start.usual
    assert window(30, replace(FRIDGE, moving=True)).start.usual < thick.start.usual
    assert window(30, replace(FRIDGE, wrapped=False)).start.usual < thick.start.usual


def test_a_fridge_warmer_than_the_range_never_makes_it_ready():
    found = window(30, replace(FRIDGE, temp_c=18.0))
    assert found.never
    assert found.start.low is None or found.start.usual is None


def test_a_block_within_the_range_is_ready_at_once_and_stays_so_in_a_mild_place():
    found = window(20, replace(FRIDGE, temp_c=13.0), start=15.0)
    assert found.start.usual == 0
    assert found.lasts


def test_faces_are_those_of_the_place():
    above, below = faces(FRIDGE, HOUSE)
    assert above == Air(4.0, pytest.approx(1 / (1 / 8 + 0.02)))
    assert isinstance(below, Air)
    _, wood = faces(BENCH, HOUSE)
    assert isinstance(wood, Slab)
    assert wood.start_c == HOUSE.shop_c
    own = replace(FRIDGE, own_w_m2_k=9.0, own_low_w_m2_k=8.0, own_high_w_m2_k=10.0)
    assert [faces(own, HOUSE, s)[0].w_m2_k for s in ("slow", "usual", "quick")] == [8, 9, 10]
    assert usual_coefficient("blast", moving=False).standing == "memory"


def test_out_of_the_cold_it_warms_sooner_on_stone_and_when_it_is_rolled():
    wood = out_of_cold(
        Body(PASTE, 10), 6, Place("b", "room", 22, under="wood", wrapped=False), HOUSE, 16
    )
    stone = out_of_cold(
        Body(PASTE, 10), 6, Place("b", "room", 22, under="stone", wrapped=False), HOUSE, 16
    )
    assert stone.minutes.usual < 0.5 * wood.minutes.usual
    rolled = out_of_cold(
        Body(PASTE, 10), 6, Place("b", "room", 22, under="wood", wrapped=False), HOUSE, 16, turns=2
    )
    assert rolled.minutes.usual < wood.minutes.usual
    cool = out_of_cold(Body(PASTE, 10), 6, Place("b", "room", 12), HOUSE, 16)
    assert cool.minutes.usual is None


def test_a_rest_of_some_minutes_is_judged():
    course = window(30, FRIDGE).course
    assert [after(course, m, 12, 16).verdict for m in (20, 75, 300)] == ["soft", "ready", "hard"]
    frozen = window(30, FREEZER).course
    assert after(frozen, 20, 12, 16).verdict == "uneven"


def test_dough_and_fat_meet_when_the_slower_one_is_ready():
    dough, fat = window(40, FRIDGE), window(12, FRIDGE)
    found = match(dough, fat)
    assert found.waits == "fat"
    assert found.meet_min == dough.start.usual
    assert found.wait_min == pytest.approx(dough.start.usual - fat.start.usual)
    assert match(dough, window(30, FREEZER)).meet_min is None


def test_a_frozen_block_bends_after_about_nine_hours_in_the_fridge():
    """30 mm at 4 °C, worked out beforehand."""
    band = bends_at(Body(PASTE, 30), -18, FRIDGE, HOUSE, thawed_c=2.0)
    assert band.usual == pytest.approx(9 * 60, rel=0.06)
    assert bends_at(Body(PASTE, 30), -18, FREEZER, HOUSE).usual is None


def test_a_small_frozen_block_bends_as_quickly_by_the_rough_way_as_by_the_fine():
    """The same box, all its temperatures asked for; and sooner than a slab as thick."""
    body = Body(PASTE, 40, 60, 80)
    fine = through_middle(follow(body, -18, [Stay(FRIDGE, 500)], HOUSE))
    bends = bends_at(body, -18, FRIDGE, HOUSE).usual
    assert bends == pytest.approx(crossing(fine.minutes, fine.coldest, 1.0), rel=0.005)
    assert bends < 0.85 * bends_at(Body(PASTE, 40), -18, FRIDGE, HOUSE).usual


def test_a_wide_block_is_a_slab_and_a_small_one_is_not():
    assert not body_of(PASTE, 30, 300, 400).is_box
    assert body_of(PASTE, 30, 100, 150).is_box
    for thick in (0.0, 500.0, float("nan")):
        with pytest.raises(AplombError, match="thickness"):
            body_of(PASTE, thick, 0, 0)


def test_places_are_found_by_kind_number_and_name():
    house = replace(HOUSE, places=(*HOUSE.places, Place("Cellar", "fridge", 8.0)))
    assert house.place("").name == "Fridge"
    assert house.place("fridge2").name == "Cellar"
    assert house.place("cellar").name == "Cellar"
    assert house.place("fridge3") is None
    assert house.temp_in(house.place("fridge")) == house.fridge_c
    assert house.temp_in(house.place("Cellar")) == 8.0
    assert house.temp_in(Place("x", "blast")) == -30


@pytest.mark.parametrize(
    ("places", "words"),
    [
        ((), "at least one fridge"),
        ((Place("Fridge", "fridge"), Place("fridge", "freezer")), "another of that name"),
        ((Place(" ", "fridge"),), "1 to 60 characters"),
        ((Place("Fridge", "fridge", 99.0),), "temperature"),
        ((Place("Fridge", "fridge", own_w_m2_k=float("nan")),), "own coefficient"),
    ],
)
def test_places_that_cannot_be_are_named(places, words):
    with pytest.raises(FormulaError, match=words):
        check_house(replace(HOUSE, places=places))


@pytest.mark.parametrize("hours", [((900, 300),), ((0, 600), (500, 900)), ((0, 1500),)])
def test_hours_that_cannot_be_are_named(hours):
    with pytest.raises(FormulaError, match="hours"):
        check_house(replace(HOUSE, hours=hours))
