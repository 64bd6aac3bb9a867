"""Wanted dough temperature to water temperature and ice, by heat balance."""

from msgspec import Struct

from aplomb.core.base.constants import ICE_KJ_KG_K, ICE_MELT_KJ_KG
from aplomb.core.base.errors import AplombError
from aplomb.core.cold.thermal import HEAT_CAPACITY

COLDEST_WATER_C, WARMEST_WATER_C = 1.0, 50.0
"""Water is poured between these temperatures [°C]; below, ice does it."""

WATER_KJ_KG_K = HEAT_CAPACITY["water"].at(10.0)
"""Specific heat capacity of water at 10 °C [kJ/(kg·K)]."""


class Portion(Struct, frozen=True):
    """A material in the bowl: its mass [g], heat capacity [kJ/(kg·K)] and temperature [°C]."""

    mass_g: float
    heat_kj_kg_k: float
    temp_c: float


class WaterAndIce(Struct, frozen=True):
    """What to pour.

    Attributes
    ----------
    needed_c : float
        Temperature of the water that would do it alone [°C]; below 0 only ice can.
    water_g, ice_g : float
        Water as it comes and ice, together all the water of the dough [g].
    dough_c : float
        Temperature that is reached with them [°C].
    plain_c : float
        Temperature of the dough with water as it comes and no ice [°C].
    reached : bool
        True when `dough_c` is the wanted one.
    """

    needed_c: float
    water_g: float
    ice_g: float
    dough_c: float
    plain_c: float
    reached: bool

    @property
    def only_ice(self) -> bool:
        """True when no water can be cold enough by itself."""
        return self.needed_c < COLDEST_WATER_C


def water_and_ice(
    others: list[Portion],
    water_g: float,
    wanted_c: float,
    tap_c: float,
    ice_c: float = 0.0,
    mixing_k: float = 0.0,
) -> WaterAndIce:
    """Find the water and ice for a wanted dough temperature.

    Parameters
    ----------
    others : list of Portion
        All in the bowl but the water.
    water_g : float
        Water [g], above 0.
    wanted_c, tap_c, ice_c : float
        Wanted dough, water as it comes, ice (at most 0) [°C].
    mixing_k : float
        What mixing warms the dough by [K].

    Raises
    ------
    AplombError
        Without water, or with ice above 0 °C.

    Notes
    -----
    Σ m·c·(T_i - T) + Q = 0 over all in the bowl, ice at T_e giving -(c_e·(0 - T_e) + L + c_w·T) a
    kilogram, L = 333.6 kJ/kg. With nothing but water it is the bakers' rule ice = water ×
    (tap - wanted) / (tap + 80).
    """
    if water_g <= 0:
        raise AplombError("the dough has no water whose temperature could be set")
    if ice_c > 0:
        raise AplombError("ice is at most 0 °C")
    c_w = WATER_KJ_KG_K
    other_heat = sum(p.mass_g * p.heat_kj_kg_k for p in others)
    whole = other_heat + water_g * c_w
    brought = sum(p.mass_g * p.heat_kj_kg_k * p.temp_c for p in others) + mixing_k * whole
    needed = (wanted_c * whole - brought) / (water_g * c_w)
    plain = (brought + water_g * c_w * tap_c) / whole
    if needed >= tap_c:
        reached = min(needed, WARMEST_WATER_C)
        dough = (brought + water_g * c_w * reached) / whole
        return WaterAndIce(needed, water_g, 0.0, dough, plain, needed <= WARMEST_WATER_C)
    per_gram = c_w * tap_c + ICE_MELT_KJ_KG - ICE_KJ_KG_K * ice_c
    ice = whole * (plain - wanted_c) / per_gram
    taken = min(ice, water_g)
    dough = plain - taken * per_gram / whole
    return WaterAndIce(needed, water_g - taken, taken, dough, plain, ice <= water_g)
