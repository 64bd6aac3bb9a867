"""Stays of a body in the places of a house, and what is asked of them: ready from when to when.

Every answer is worked out three times: with the usual coefficient, with the quickest and with the
slowest that the place may have. Fat sets slower than its solid-fat curve says, so the quickest has
no latent heat at all. What comes out is a figure between two others.
"""

from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mm_range, mm_text
from aplomb.core.base.house import House
from aplomb.core.base.places import Place, usual_coefficient
from aplomb.core.cold.conduction import (
    FINE_K,
    ROUGH_K,
    ROUGH_NODES,
    ROUGH_SIDE_NODES,
    course,
)
from aplomb.core.cold.course import Air, Body, Course, Face, Phase, Slab
from aplomb.core.cold.material import Material, Mixture

WRAP_M2_K_W = 0.02
"""Resistance of a wrap with its air [m²·K/W]; 0.008 to 0.04 by how tight it lies."""
CONTACT_W_M2_K = 250.0
"""Between a block and what it lies on [W/(m²·K)]; 100 to 500, recalled."""
DAY_MIN = 1440.0
THINNEST_MM, THICKEST_MM = 1.0, 300.0
"""Between which a body is worked out [mm]."""
Speed = Literal["usual", "quick", "slow"]
SPEEDS: tuple[Speed, ...] = ("usual", "quick", "slow")


class UnderBody(Struct, frozen=True):
    """What a bench is made of; figures recalled.

    Attributes
    ----------
    density_kg_m3 : float
        [kg/m³].
    """

    thickness_mm: float
    conductivity_w_m_k: float
    density_kg_m3: float
    heat_capacity_kj_kg_k: float


UNDER_BODIES: dict[str, UnderBody] = {
    "stone": UnderBody(30.0, 2.8, 2700.0, 0.8),
    "wood": UnderBody(40.0, 0.17, 650.0, 1.6),
    "steel": UnderBody(1.5, 16.0, 7900.0, 0.5),
}
"""A stone slab, a wooden top, and a thin steel table with air below it."""


class Stay(Struct, frozen=True):
    """So long in a place.

    Attributes
    ----------
    minutes : float
        [min].
    """

    place: Place
    minutes: float


def _wrapped(w_m2_k: float, *, wrapped: bool) -> float:
    return 1 / (1 / w_m2_k + WRAP_M2_K_W) if wrapped and w_m2_k > 0 else w_m2_k


def faces(place: Place, house: House, speed: Speed = "usual") -> tuple[Air, Face]:
    """Give what touches the upper and the lower face of a block in a place.

    Parameters
    ----------
    house : House
        For the temperatures that the place leaves to it.
    speed : {'usual', 'quick', 'slow'}
        With the usual coefficient, or the highest or lowest that is likely.

    Returns
    -------
    tuple of (Air, Air or Slab)

    Notes
    -----
    A wrap is a resistance in series, 1/(1/h + R). A thin tray lets heat through as a wire shelf
    does. The house's own coefficient holds for both faces, its wrap in it.
    """
    temp = house.temp_in(place)
    if place.own_w_m2_k is not None:
        own = place.own_w_m2_k
        value = {
            "usual": own,
            "quick": place.own_high_w_m2_k or own,
            "slow": place.own_low_w_m2_k or own,
        }[speed]
        above = below = value
    else:
        usual = usual_coefficient(place.kind, moving=place.moving)
        factor = {"usual": 1.0, "quick": 1 + usual.more, "slow": 1 - usual.less}[speed]
        above = _wrapped(usual.above * factor, wrapped=place.wrapped)
        below = _wrapped(usual.below * factor, wrapped=place.wrapped)
    under = UNDER_BODIES.get(place.under)
    if under is None:
        return Air(temp, above), Air(temp, below)
    contact = CONTACT_W_M2_K * {"usual": 1.0, "quick": 2.0, "slow": 0.4}[speed]
    if place.wrapped:
        contact = 1 / (1 / contact + WRAP_M2_K_W / 2)
    bench = Slab(
        under.thickness_mm,
        under.conductivity_w_m_k,
        under.density_kg_m3,
        under.heat_capacity_kj_kg_k,
        temp,
        contact,
        far=Air(temp, 8.0),
    )
    return Air(temp, above), bench


def phases_of(stays: list[Stay], house: House, speed: Speed = "usual") -> list[Phase]:
    """Give the phases of some stays; the sides of a box touch the air that its upper face does."""
    found = []
    for stay in stays:
        above, below = faces(stay.place, house, speed)
        found.append(Phase(stay.minutes, above, below, above))
    return found


def follow(
    body: Body,
    start_c: float,
    stays: list[Stay],
    house: House,
    speed: Speed = "usual",
    *,
    rough: bool = False,
) -> Course:
    """Follow a body through places of the house.

    Parameters
    ----------
    start_c : float
        Throughout, at the start [°C].
    speed : {'usual', 'quick', 'slow'}
        'quick' leaves the latent heat of the fat out too.
    rough : bool
        True when only a time is asked of a box, not its temperatures.
    """
    material = body.material
    if speed == "quick" and isinstance(material, Mixture):
        body = Body(
            material.without_latent_heat(), body.thickness_mm, body.width_mm, body.length_mm
        )
    phases = phases_of(stays, house, speed)
    if not body.is_box:
        return course(body, start_c, phases, tolerance_k=FINE_K)
    if rough:
        return course(body, start_c, phases, ROUGH_NODES, ROUGH_K, ROUGH_SIDE_NODES)
    return course(body, start_c, phases)


WIDE_ENOUGH = 5.0
"""A block whose sides are so many times its thickness goes as a slab does, within 5 % of the time:
150 × 200 × 30 mm is 4 to 5 % quicker, 100 × 150 × 30 mm a sixth."""


def slab_is_enough(thickness_mm: float, width_mm: float, length_mm: float) -> bool:
    """Say whether the narrow sides of a block hardly count.

    Notes
    -----
    In the product solution for a box (Carslaw & Jaeger, *Conduction of Heat in Solids*, from
    memory) the factor of a pair of sides falls with exp(−π² Fo) of their distance, and Fo goes
    with one over its square: at five times the thickness the narrow sides count for a
    twenty-fifth.

    Examples
    --------
    >>> slab_is_enough(30.0, 150.0, 200.0), slab_is_enough(30.0, 100.0, 150.0)
    (True, False)
    """
    return min(width_mm, length_mm) >= WIDE_ENOUGH * thickness_mm


def body_of(material: Material, thickness_mm: float, width_mm: float, length_mm: float) -> Body:
    """Give a block as a slab where that is enough, and as a box where it is not.

    Parameters
    ----------
    thickness_mm, width_mm, length_mm : float
        [mm]; 0 wide or long for a slab.

    Raises
    ------
    AplombError
        For a thickness that no block has.
    """
    if not THINNEST_MM <= thickness_mm <= THICKEST_MM:
        raise AplombError(
            f"thickness: {mm_text(thickness_mm)} cannot be calculated; use "
            f"{mm_range(THINNEST_MM, THICKEST_MM)}"
        )
    given = width_mm > 0 and length_mm > 0
    if not given or slab_is_enough(thickness_mm, width_mm, length_mm):
        return Body(material, thickness_mm)
    return Body(material, thickness_mm, width_mm, length_mm)
