"""What physics can say honestly of a bake: heat, power, water, cooling. Never lift or colour."""

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from aplomb.core.base.composition import Composition
from aplomb.core.base.errors import Problems
from aplomb.core.base.ovens import Oven
from aplomb.core.cold.conduction import course
from aplomb.core.cold.course import Air, Body, Phase, crossing
from aplomb.core.cold.material import Constant
from aplomb.core.cold.thermal import conductivity_w_m_k, density_g_ml, heat_capacity_kj_kg_k

MIDDLE_C = 95.0
"""The middle is done when it is so hot, common practice: starch set, water boiling away [°C]."""
BOIL_C = 100.0
VAPOUR_KJ_KG = 2257.0
"""Heat that water takes to boil away at 100 °C (IAPWS-95) [kJ/kg]."""
STILL_W_M2_K, FAN_W_M2_K = (14.0, 22.0), (22.0, 38.0)
"""Surface coefficient in an oven, hot walls with it, without a fan and with one; recalled
[W/(m²·K)]."""
HALFWAY_C = 60.0
"""Properties are taken as they are there [°C]."""
TRAY_KJ_K = 0.75
"""A tray of 1.5 kg of steel takes so much heat; recalled [kJ/K]."""
BAKED = Constant(180.0, 0.07, 1.9)
"""A baked piece with its air: density, conductivity, heat capacity; recalled."""
RACK_W_M2_K = (7.0, 11.0)
"""Both faces of a piece on a rack in still air; calculated from free convection and radiation."""
COLD_K = 3.0
"""It may be packed when its middle is so near the room [K]."""


class Range(Struct, frozen=True):
    """From the soonest to the latest [min]."""

    low: float
    high: float


class LoadHeat(Struct, frozen=True):
    """What an oven load takes.

    Attributes
    ----------
    mass_g : float
        Raw, filling with it [g].
    first_kw : float
        What it takes up at first [kW].
    mean_kw : float
        On the mean over the bake, the oven's own loss with it [kW].
    kwh : float
        All of it [kWh].
    too_much : bool
        At first it takes up more than the oven draws, so that the oven falls until it is warm.
    """

    mass_g: float
    first_kw: float
    mean_kw: float
    kwh: float
    too_much: bool


def _faces(oven: Oven) -> tuple[float, float]:
    return FAN_W_M2_K if oven.fan else STILL_W_M2_K


def middle_at(
    composition: Composition,
    thickness_mm: float,
    start_c: float,
    air_c: float,
    oven: Oven,
    loss_pct: float = 14.0,
    target_c: float = MIDDLE_C,
) -> Range | None:
    """Say when the middle of a flat piece is so hot.

    None when it is not there within three hours.

    Parameters
    ----------
    composition : Composition
        Of paste and filling together.
    thickness_mm : float
        As it goes in, filling with it [mm].
    air_c : float
        What a thermometer in the oven shows [°C].
    oven : Oven
        With its fan or without.
    loss_pct : float
        Mass that it loses [%].

    Notes
    -----
    Conduction through a slab with both faces in hot air. Soonest: the greater surface coefficient,
    no water boiled. Latest: the smaller one, and all the heat of the water that is lost taken up on
    the way. What the model leaves out: the piece grows and its leaves part, which slows the heat;
    the tray below, which hastens it.
    """
    density = 1000 * density_g_ml(composition, HALFWAY_C)
    k = conductivity_w_m_k(composition, HALFWAY_C)
    c = heat_capacity_kj_kg_k(composition, HALFWAY_C)
    slow_c = c + loss_pct / 100 * VAPOUR_KJ_KG / max(20.0, BOIL_C - start_c)
    low_h, high_h = _faces(oven)
    found = []
    for heat, h in ((c, high_h), (slow_c, low_h)):
        air = Air(air_c, h)
        body = Body(Constant(density, k, heat), thickness_mm)
        ran = course(body, start_c, [Phase(180.0, air, air)])
        found.append(crossing(ran.minutes, ran.core, target_c))
    low, high = found
    return None if low is None or high is None else Range(low, high)


def cold_at(thickness_mm: float, room_c: float, start_c: float = 92.0) -> Range | None:
    """Say when a baked piece on a rack is cold to its middle and may be packed.

    None when it is not within twelve hours.

    Parameters
    ----------
    thickness_mm : float
        Baked [mm].
    start_c : float
        As it comes out [°C].
    """
    found = []
    for h in reversed(RACK_W_M2_K):
        air = Air(room_c, h)
        ran = course(Body(BAKED, thickness_mm), start_c, [Phase(720.0, air, air)])
        found.append(crossing(ran.minutes, ran.core, room_c + COLD_K))
    low, high = found
    return None if low is None or high is None else Range(low, high)


def load_heat(
    oven: Oven,
    trays: int,
    tray_g: float,
    tray_area_m2: float,
    air_c: float,
    minutes: float,
    composition: Composition,
    start_c: float = 5.0,
    loss_pct: float = 14.0,
) -> LoadHeat:
    """Say what an oven load takes.

    Parameters
    ----------
    trays : int
        In this load [-].
    tray_g : float
        What lies on a tray, raw [g].
    tray_area_m2 : float
        Of one tray [m²].
    air_c : float
        The oven [°C].
    minutes : float
        In the oven [min].
    start_c : float
        As it goes in [°C].
    loss_pct : float
        Mass that it loses [%].

    Raises
    ------
    FormulaError
        For figures that cannot be.

    Notes
    -----
    Heat = m c (100 − T₀) + water lost · 2257 kJ/kg + trays · 0.75 kJ/K · (T − T₀); the mean adds
    what the oven draws hot and empty. At first the load takes h A (T − T₀) over both faces of its
    trays, with the mean of the surface coefficients.
    """
    wrong = Problems()
    wrong.number("trays", trays, 1, 1000, "")
    wrong.number("minutes", minutes, 0.5, 600, "min")
    wrong.number("oven", air_c, start_c + 1, 350, "°C")
    wrong.number("a tray", tray_g, 0, 100_000, "g")
    wrong.check()
    mass = trays * tray_g
    c = heat_capacity_kj_kg_k(composition, HALFWAY_C)
    heat = mass / 1000 * (c * (BOIL_C - start_c) + loss_pct / 100 * VAPOUR_KJ_KG)
    heat += trays * TRAY_KJ_K * (air_c - 20)
    h = sum(_faces(oven)) / 2
    first = h * 2 * tray_area_m2 * trays * (air_c - start_c) / 1000
    mean = heat / (60 * minutes) + oven.holding_kw
    too_much = first + oven.holding_kw > oven.rated_kw
    return LoadHeat(mass, first, mean, mean * minutes / 60, too_much)


class LoadCost(Struct, frozen=True):
    """All loads together.

    Attributes
    ----------
    minutes : float
        Heating with it [min].
    kwh : float
        Heating with it [kWh].
    a_kg_kwh : float
        Over the raw mass [kWh/kg].
    half_empty : float
        What a kilogram costs more in a load half as full, over what it costs now [-].
    """

    loads: int
    minutes: float
    kwh: float
    a_kg_kwh: float
    half_empty: float


def loads_cost(
    oven: Oven, load: LoadHeat, loads: int, minutes: float, between_min: float = 5.0
) -> LoadCost:
    """Say what loads in a row take, and what a half-empty oven costs.

    Parameters
    ----------
    load : LoadHeat
        A full one.
    loads : int
        In a row, after the oven was heated once [-].
    minutes : float
        Of each [min].
    between_min : float
        To change them [min].

    Notes
    -----
    Heating takes the rated power for as long as it lasts. Half as much in a load takes half its
    heat and all of what the oven draws by itself, so a kilogram of it costs more.
    """
    heating = oven.rated_kw * oven.heat_min / 60
    waiting = oven.holding_kw * between_min * max(0, loads - 1) / 60
    whole = loads * load.kwh + heating + waiting
    own = oven.holding_kw * minutes / 60
    mass = max(1e-9, loads * load.mass_g / 1000)
    half_load = (load.kwh - own) / 2 + own
    half = 2 * loads * half_load + heating + oven.holding_kw * between_min * (2 * loads - 1) / 60
    took = oven.heat_min + loads * minutes + max(0, loads - 1) * between_min
    return LoadCost(loads, took, whole, whole / mass, half / whole - 1 if whole else 0.0)


class LossFit(Struct, frozen=True):
    """How mass goes in the oven, from a few weighings.

    Attributes
    ----------
    most_pct : float
        What it would lose in the end [%].
    after_min : float
        From when on it loses [min].
    time_min : float
        In which two thirds of that go [min].
    off_pct : float
        By how much the weighings miss the curve [% of the raw mass].
    """

    most_pct: float
    after_min: float
    time_min: float
    off_pct: float

    def at(self, minutes: float) -> float:
        """Give what is lost after so long in the oven [%]."""
        past = max(0.0, minutes - self.after_min)
        return self.most_pct * (1 - math.exp(-past / self.time_min))


def fit_loss(weighings: Sequence[tuple[float, float]]) -> LossFit:
    """Fit how mass goes in the oven.

    Parameters
    ----------
    weighings : sequence of (minutes, lost)
        Three at the least, at different times [min, % of the raw mass].

    Raises
    ------
    FormulaError
        With too few, or figures that cannot be.

    Notes
    -----
    Least squares of L (1 − exp(−(t − t₀)/τ)), with t₀ and τ looked for on a grid and L by itself.
    """
    wrong = Problems()
    if len({minutes for minutes, _ in weighings}) < 3:
        wrong.add("weighings: give at least three, at different times.")
    for i, (minutes, lost) in enumerate(weighings, 1):
        wrong.number(f"weighing {i}", minutes, 0, 600, "min")
        wrong.number(f"weighing {i}", lost, 0, 90, "%")
    wrong.check()
    t, y = (np.array(each, dtype=float) for each in zip(*weighings, strict=True))
    best: tuple[float, LossFit] | None = None
    last = float(t.max())
    for after in np.linspace(0, 0.6 * last, 61):
        past = np.clip(t - after, 0, None)
        for time in np.geomspace(last / 20, 6 * last, 80):
            shape = 1 - np.exp(-past / time)
            most = float(shape @ y) / max(float(shape @ shape), 1e-12)
            off = float(np.sqrt(np.mean((y - most * shape) ** 2)))
            if 0 < most <= 60 and (best is None or off < best[0] - 1e-9):
                best = off, LossFit(most, float(after), float(time), off)
    if best is None:
        wrong.add("weighings: no weight was lost, so no curve can be drawn.")
        wrong.check()
        return LossFit(0.0, 0.0, 1.0, 0.0)
    return best[1]
