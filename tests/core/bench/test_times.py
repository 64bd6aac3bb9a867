"""Minutes worked out for a block: against the cold's own answers, and limits."""

import pytest

from aplomb.core.base.house import House
from aplomb.core.bench.times import LONGEST_MIN, SHORTEST_MIN, back_min, stand_min
from aplomb.core.cold.course import Body
from aplomb.core.cold.readiness import bends_at, ready
from aplomb.core.cold.stay import Stay
from aplomb.core.paste.bodies import bodies_of

HOUSE = House()
FRIDGE, BENCH = HOUSE.place("fridge"), HOUSE.places[-1]


@pytest.fixture
def paste(demo, pantry):
    found = bodies_of(demo[0], pantry)
    return found.paste, *found.range_c


@pytest.mark.parametrize("temp", [17.0, 18.5, 21.0])
def test_back_in_the_cold_until_no_part_is_too_warm(paste, temp):
    material, low, high = paste
    minutes = back_min(material, 30.0, temp, FRIDGE, HOUSE, low, high)
    found = ready(Body(material, 30.0), temp, [Stay(FRIDGE, 240.0)], HOUSE, low, high)
    assert minutes == pytest.approx(max(SHORTEST_MIN, found.start.usual), abs=1)


def test_warmer_and_thicker_go_back_for_longer(paste):
    material, low, high = paste

    def back(thick, temp):
        return back_min(material, thick, temp, FRIDGE, HOUSE, low, high)

    assert back(30.0, 17.0) < back(30.0, 19.0) < back(30.0, 24.0)
    assert back(15.0, 19.0) < back(30.0, 19.0) < back(45.0, 19.0)
    assert back(200.0, 30.0) == LONGEST_MIN


@pytest.mark.parametrize("temp", [6.0, 9.0])
def test_it_stands_until_no_part_is_too_cold(paste, temp):
    material, low, _ = paste
    minutes = stand_min(material, 30.0, temp, BENCH, HOUSE, low)
    found = bends_at(Body(material, 30.0), temp, BENCH, HOUSE, low)
    assert minutes == pytest.approx(min(LONGEST_MIN, found.usual), abs=2)


def test_a_room_colder_than_the_range_never_warms_it(paste):
    material, low, _ = paste
    cold_room = House(shop_c=5.0)
    assert stand_min(material, 30.0, 4.0, BENCH, cold_room, low) == 10.0
