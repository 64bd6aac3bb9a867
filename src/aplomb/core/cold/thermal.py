"""Thermal properties of food from its composition.

Choi, Y. & Okos, M. R. (1986), *Effects of temperature and composition on the thermal
properties of foods*, as tabulated in the ASHRAE Handbook: Refrigeration, chapter "Thermal
properties of foods". Valid from -40 to 150 °C. Water below 0 °C is water that does not freeze;
ice has curves of its own.
"""

from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct

from aplomb.core.base.composition import Composition
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import celsius_range, celsius_text

if TYPE_CHECKING:
    from numpy.typing import NDArray

LOWEST_C, HIGHEST_C = -40.0, 150.0
"""Range of the correlation [°C]."""

Component = Literal["water", "fat", "protein", "carbohydrate", "fibre", "ash"]


class Curve(Struct, frozen=True):
    """A quadratic in temperature: a + b·t + c·t², t in °C."""

    a: float
    b: float
    c: float = 0.0

    def at(self, temp_c: float) -> float:
        """Value at a temperature [°C]."""
        return self.a + self.b * temp_c + self.c * temp_c * temp_c

    def of(self, temps_c: "NDArray[Any]") -> "NDArray[Any]":
        """Values at many temperatures [°C], in their shape."""
        found: NDArray[Any] = self.a + self.b * temps_c + self.c * temps_c * temps_c
        return found


DENSITY: dict[Component, Curve] = {
    "water": Curve(9.9718e2, 3.1439e-3, -3.7574e-3),
    "fat": Curve(9.2559e2, -4.1757e-1),
    "protein": Curve(1.3299e3, -5.1840e-1),
    "carbohydrate": Curve(1.5991e3, -3.1046e-1),
    "fibre": Curve(1.3115e3, -3.6589e-1),
    "ash": Curve(2.4238e3, -2.8063e-1),
}
"""Density of each component [kg/m³]."""

HEAT_CAPACITY: dict[Component, Curve] = {
    "water": Curve(4.1762, -9.0864e-5, 5.4731e-6),
    "fat": Curve(1.9842, 1.4733e-3, -4.8008e-6),
    "protein": Curve(2.0082, 1.2089e-3, -1.3129e-6),
    "carbohydrate": Curve(1.5488, 1.9625e-3, -5.9399e-6),
    "fibre": Curve(1.8459, 1.8306e-3, -4.6509e-6),
    "ash": Curve(1.0926, 1.8896e-3, -3.6817e-6),
}
"""Specific heat capacity of each component [kJ/(kg·K)].

Water: some tables print 4.1289 for the first term. 4.1762, as in the paper, is taken here: it
stays within 0.7 % of the steam tables from 5 to 80 °C, where the other is over 1 % low.
"""

CONDUCTIVITY: dict[Component, Curve] = {
    "water": Curve(5.7109e-1, 1.7625e-3, -6.7036e-6),
    "fat": Curve(1.8071e-1, -2.7604e-4, -1.7749e-7),
    "protein": Curve(1.7881e-1, 1.1958e-3, -2.7178e-6),
    "carbohydrate": Curve(2.0141e-1, 1.3874e-3, -4.3312e-6),
    "fibre": Curve(1.8331e-1, 1.2497e-3, -3.1683e-6),
    "ash": Curve(3.2962e-1, 1.4011e-3, -2.9069e-6),
}
"""Thermal conductivity of each component [W/(m·K)]."""


ICE_DENSITY = Curve(9.1689e2, -1.3071e-1)
"""Density of ice [kg/m³]."""

ICE_HEAT_CAPACITY = Curve(2.0623, 6.0769e-3)
"""Specific heat capacity of ice [kJ/(kg·K)]."""

ICE_CONDUCTIVITY = Curve(2.2196, -6.2489e-3, 1.0154e-4)
"""Thermal conductivity of ice [W/(m·K)]."""


def _shares(composition: Composition, temp_c: float) -> dict[Component, float]:
    if not LOWEST_C <= temp_c <= HIGHEST_C:
        raise AplombError(
            f"{celsius_text(temp_c)} is outside {celsius_range(LOWEST_C, HIGHEST_C, spec='g')}, "
            "where the food properties are known"
        )
    return shares_of(composition)


def shares_of(composition: Composition) -> dict[Component, float]:
    """Shares of the components, scaled to 1 [g/g]; salt counts as ash.

    Raises
    ------
    AplombError
        For an empty composition.
    """
    total = composition.total
    if total <= 0:
        raise AplombError("this ingredient has no composition; enter one in the pantry")
    return {
        "water": composition.water / total,
        "fat": composition.fat / total,
        "protein": composition.protein / total,
        "carbohydrate": composition.carbohydrate / total,
        "fibre": composition.fibre / total,
        "ash": (composition.ash + composition.salt) / total,
    }


def density_g_ml(composition: Composition, temp_c: float) -> float:
    """Density of a mixture without pores [g/mL].

    Density [g/mL].

    Parameters
    ----------
    composition : Composition
        Fractions [g/g]; what is not known is left out and the rest scaled to 1.
    temp_c : float
        Temperature [°C], -40 to 150.

    Raises
    ------
    AplombError
        Outside the temperature range, or for an empty composition.

    Notes
    -----
    1/ρ = Σ xᵢ/ρᵢ (Choi & Okos 1986). Salt counts as ash.

    Examples
    --------
    >>> from aplomb.core.base.composition import Composition
    >>> round(density_g_ml(Composition(water=1.0), 20.0), 3)
    0.996
    """
    shares = _shares(composition, temp_c)
    return 1e-3 / sum(x / DENSITY[name].at(temp_c) for name, x in shares.items())


def heat_capacity_kj_kg_k(composition: Composition, temp_c: float) -> float:
    """Specific heat capacity of a mixture [kJ/(kg·K)], above freezing.

    Parameters, raises: as `density_g_ml`. c = Σ xᵢ·cᵢ (Choi & Okos 1986).

    Notes
    -----
    c = Σ xᵢ·cᵢ, each cᵢ a parabola in °C (Choi & Okos 1986, in *Food Engineering and Process
    Applications* 1, Elsevier).

    Examples
    --------
    >>> from aplomb.core.base.composition import Composition
    >>> round(heat_capacity_kj_kg_k(Composition(water=1.0), 20.0), 2)
    4.18
    """
    shares = _shares(composition, temp_c)
    return sum(x * HEAT_CAPACITY[name].at(temp_c) for name, x in shares.items())


def conductivity_w_m_k(composition: Composition, temp_c: float) -> float:
    """Thermal conductivity of a mixture [W/(m·K)], components side by side.

    Parameters, raises: as `density_g_ml`. k = Σ vᵢ·kᵢ with volume fractions vᵢ (the parallel
    model of Choi & Okos 1986).
    """
    shares = _shares(composition, temp_c)
    volumes = {name: x / DENSITY[name].at(temp_c) for name, x in shares.items()}
    whole = sum(volumes.values())
    return sum(v / whole * CONDUCTIVITY[name].at(temp_c) for name, v in volumes.items())
