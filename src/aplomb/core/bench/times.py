"""For how long: back in the cold, standing on the bench, lying open; worked out for one block."""

from functools import lru_cache

from aplomb.core.base.house import House
from aplomb.core.base.places import Place
from aplomb.core.cold.course import Body, Course, crossing, ready_window
from aplomb.core.cold.material import Mixture
from aplomb.core.cold.readiness import through_middle
from aplomb.core.cold.stay import Stay, follow

SHORTEST_MIN, LONGEST_MIN = 5.0, 120.0
"""A block is held no shorter and no longer [min], common practice."""
USUAL_BACK_MIN, USUAL_STAND_MIN = 15.0, 10.0
"""Where nothing can be worked out [min], common practice."""
LOOKED_AT_MIN = 240.0


@lru_cache(maxsize=64)
def back_min(
    material: Mixture,
    thickness_mm: float,
    temp_c: float,
    place: Place,
    house: House,
    low_c: float,
    high_c: float,
) -> float:
    """Work out how long a block that is too soft goes back to the cold [min].

    Until no part is warmer than the range, or, where there is no such moment, until its mean
    is in it; within 5 to 120 [min].

    Parameters
    ----------
    thickness_mm, temp_c : float
        As it is now, throughout [mm, °C].
    low_c, high_c : float
        Where it is rolled [°C].
    """
    body = Body(material, thickness_mm)
    course = through_middle(follow(body, temp_c, [Stay(place, LOOKED_AT_MIN)], house))
    window = ready_window(course, low_c, high_c)
    inside = course.minutes[course.mean <= high_c]
    usual = float(inside[0]) if len(inside) else LONGEST_MIN
    minutes = window[0] if window else usual
    return min(max(round(minutes), SHORTEST_MIN), LONGEST_MIN)


@lru_cache(maxsize=64)
def stand_min(
    material: Mixture,
    thickness_mm: float,
    temp_c: float,
    place: Place,
    house: House,
    low_c: float,
) -> float:
    """Work out how long a block that is too hard stands before it can be rolled [min].

    Until no part is colder than that, within 5 to 120 [min].

    Parameters
    ----------
    thickness_mm, temp_c : float
        As it is now, throughout [mm, °C].
    place : Place
        Where it stands.
    low_c : float
        From which on it is rolled [°C].
    """
    if house.temp_in(place) <= low_c or temp_c >= low_c:
        return USUAL_STAND_MIN
    body = Body(material, thickness_mm)
    course = through_middle(follow(body, temp_c, [Stay(place, LONGEST_MIN)], house))
    minutes = crossing(course.minutes, course.coldest, low_c)
    return min(max(round(minutes or LONGEST_MIN), SHORTEST_MIN), LONGEST_MIN)


@lru_cache(maxsize=32)
def predicted(
    material: Mixture,
    thickness_mm: float,
    temp_c: float,
    place: Place,
    house: House,
    minutes: float,
) -> Course:
    """Work out how a block cools in a place, to lie beside what a probe says.

    Parameters
    ----------
    minutes : float
        So long [min].
    """
    return follow(Body(material, thickness_mm), temp_c, [Stay(place, minutes)], house)
