"""What a body is made of, as heat sees it: enthalpy and conductivity over temperature.

Three things make the heat capacity of paste other than its components': fat that melts along its
solid-fat curve, water that freezes below the initial freezing point, and what then is ice. All of
them go into one curve of enthalpy, so that no heat is lost however long a step is.
"""

from itertools import pairwise

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aplomb.core.base.composition import Composition
from aplomb.core.base.constants import ICE_MELT_KJ_KG
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import celsius_range, celsius_text
from aplomb.core.cold.thermal import (
    CONDUCTIVITY,
    DENSITY,
    HEAT_CAPACITY,
    HIGHEST_C,
    ICE_CONDUCTIVITY,
    ICE_DENSITY,
    ICE_HEAT_CAPACITY,
    LOWEST_C,
    shares_of,
)

Floats = NDArray[np.float64]

STEP_C = 0.05
"""Distance of the points of a curve of enthalpy [K]."""
COLDEST_C, HOTTEST_C = -80.0, 300.0
"""Temperatures between which a body of constant properties is worked out [°C]."""


class Constant(Struct, frozen=True, forbid_unknown_fields=True):
    """A material whose properties do not change with temperature.

    Attributes
    ----------
    density_kg_m3 : float
        [kg/m³].
    """

    density_kg_m3: float
    conductivity_w_m_k: float
    heat_capacity_kj_kg_k: float


class Melting(Struct, frozen=True, forbid_unknown_fields=True):
    """How fat takes heat up to melt.

    Attributes
    ----------
    sfc : tuple of (temperature [°C], solid fat [%])
        Rising in temperature, never rising in solid fat; constant beyond its ends.
    latent_kj_kg : float
        Of wholly solid fat [kJ/kg of fat].
    """

    sfc: tuple[tuple[float, float], ...]
    latent_kj_kg: float


class Freezing(Struct, frozen=True, forbid_unknown_fields=True):
    """How water in a material freezes.

    Attributes
    ----------
    starts_c : float
        Initial freezing point [°C], below 0.
    water_fraction : float
        Water that can freeze [g/g of the material]: what is bound is left out.
    """

    starts_c: float
    water_fraction: float

    def ice_at(self, temp_c: float | Floats) -> Floats:
        """Ice at temperatures [g/g of the material]; none from where freezing starts on."""
        below = np.minimum(temp_c, self.starts_c)
        return self.water_fraction * (1 - self.starts_c / below)


class Mixture(Struct, frozen=True):
    """A material known by its composition.

    Attributes
    ----------
    composition : Composition
        Fractions [g/g].
    fat : Melting or None
        None: its fat takes no heat up to melt.
    freezing : Freezing or None
        None: nothing in it freezes.
    """

    composition: Composition
    fat: Melting | None = None
    freezing: Freezing | None = None

    def without_latent_heat(self) -> "Mixture":
        """Give the same whose fat stays as it is: the quickest that it can follow."""
        return Mixture(self.composition, None, self.freezing)


Material = Constant | Mixture


class Curves(Struct, frozen=True):
    """A material as the solver reads it, point by point.

    Attributes
    ----------
    temp_c : array of shape (points,)
        Rising in equal steps [°C].
    enthalpy : array of shape (points,)
        Per volume, from the first temperature on [J/m³]; rising.
    conductivity : array of shape (points,)
        [W/(m·K)].
    density_kg_m3 : float
        At the temperature the body begins with [kg/m³]: its mass stays where it is.
    """

    temp_c: Floats
    enthalpy: Floats
    conductivity: Floats
    density_kg_m3: float

    def enthalpy_at(self, temp_c: Floats | float) -> Floats:
        """Enthalpy at temperatures [J/m³]."""
        return np.asarray(np.interp(temp_c, self.temp_c, self.enthalpy), dtype=np.float64)

    def temp_at(self, enthalpy: Floats) -> Floats:
        """Temperatures at enthalpies [°C]."""
        return np.asarray(np.interp(enthalpy, self.enthalpy, self.temp_c), dtype=np.float64)

    @property
    def capacity(self) -> Floats:
        """Apparent heat capacity between the points [J/(m³·K)], one fewer than the points."""
        return np.asarray(np.diff(self.enthalpy) / np.diff(self.temp_c))


def curves(material: Material, start_c: float, low_c: float, high_c: float) -> Curves:
    """Work out enthalpy and conductivity over the temperatures that a body may meet.

    Parameters
    ----------
    start_c : float
        At which the body begins, and its density is taken [°C].
    low_c, high_c : float
        Coldest and warmest that touches it [°C].

    Raises
    ------
    AplombError
        When a temperature is outside the range where the properties are known, or a figure of
        the material cannot be used.

    Notes
    -----
    H(T) = ρ·(∫ Σ xᵢ·cᵢ dT - L·x_ice(T) + L_f·x_f·(S(T₀) - S(T))) with the components of Choi and
    Okos (1986), ice x_ice = x_w·(1 - T_f/T) (ASHRAE Handbook: Refrigeration, chapter "Thermal
    properties of foods", from Raoult's law), and S the solid fat [-]. Conductivity is that of the
    components side by side.
    """
    if isinstance(material, Constant):
        return _constant(material, low_c, high_c)
    for temp in (start_c, low_c, high_c):
        if not LOWEST_C <= temp <= HIGHEST_C:
            raise AplombError(
                f"{celsius_text(temp)} is outside "
                f"{celsius_range(LOWEST_C, HIGHEST_C, spec='g')}, where the food properties are "
                "known"
            )
    check_mixture(material)
    return _mixture(material, start_c, low_c, high_c)


def check_mixture(material: Mixture) -> None:
    """Refuse a mixture whose figures cannot be used.

    Raises
    ------
    AplombError
        Naming the figure.
    """
    if not 0 < material.composition.total <= 1.02:
        raise AplombError("composition: the fractions must add up to more than 0 and at most 1")
    if material.fat is not None:
        table = material.fat.sfc
        if not table:
            raise AplombError("fat.sfc: give at least one pair of temperature and solid fat")
        for (a, high), (b, low) in pairwise(table):
            if b <= a or low > high:
                raise AplombError(
                    "fat.sfc: from pair to pair the temperature must rise and the solid "
                    "fat must not"
                )
    if material.freezing is not None:
        if material.freezing.starts_c >= 0:
            raise AplombError("freezing.starts_c: must be below 0 °C")
        if material.freezing.water_fraction > material.composition.water + 1e-9:
            raise AplombError(
                "freezing.water_fraction: cannot be more than the water in the composition"
            )


def _constant(material: Constant, low_c: float, high_c: float) -> Curves:
    if not COLDEST_C <= low_c <= high_c <= HOTTEST_C:
        raise AplombError(
            f"only temperatures of {celsius_range(COLDEST_C, HOTTEST_C, spec='g')} can be "
            f"calculated, not {celsius_text(low_c if low_c < COLDEST_C else high_c)}"
        )
    temps = np.array([low_c - 50.0, high_c + 50.0])
    per_k = 1000 * material.density_kg_m3 * material.heat_capacity_kj_kg_k
    flat = np.full(2, material.conductivity_w_m_k)
    return Curves(temps, per_k * (temps - temps[0]), flat, material.density_kg_m3)


def _mixture(material: Mixture, start_c: float, low_c: float, high_c: float) -> Curves:
    # A little beyond what can be met, so that a step that goes too far is still read right.
    low, high = low_c - 5.0, high_c + 5.0
    points = max(3, round((high - low) / STEP_C) + 1)
    temps = np.linspace(low, high, points)
    freezing = material.freezing
    if freezing is not None and low < freezing.starts_c < high:
        # One point lies where freezing begins: its bend is sharp.
        nearest = int(np.argmin(np.abs(temps - freezing.starts_c)))
        temps[min(max(nearest, 1), points - 2)] = freezing.starts_c
    shares = shares_of(material.composition)
    ice = np.zeros(points) if freezing is None else freezing.ice_at(temps)
    capacity = ice * ICE_HEAT_CAPACITY.of(temps)
    volume = ice / ICE_DENSITY.of(temps)
    carried = volume * ICE_CONDUCTIVITY.of(temps)
    for name, share in shares.items():
        part = share - ice if name == "water" else np.full(points, share)
        capacity = capacity + part * HEAT_CAPACITY[name].of(temps)
        own = part / DENSITY[name].of(temps)
        volume = volume + own
        carried = carried + own * CONDUCTIVITY[name].of(temps)

    sensible = np.concatenate(
        ([0.0], np.cumsum(0.5 * (capacity[1:] + capacity[:-1]) * np.diff(temps)))
    )
    heat = sensible - ICE_MELT_KJ_KG * ice
    if material.fat is not None:
        at, solid = np.array(material.fat.sfc).T
        molten = 1 - np.interp(temps, at, solid) / 100
        heat = heat + shares["fat"] * material.fat.latent_kj_kg * molten
    density = 1.0 / float(np.interp(start_c, temps, volume))
    return Curves(temps, 1000 * density * (heat - heat[0]), carried / volume, density)
