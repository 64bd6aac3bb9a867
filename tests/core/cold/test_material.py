"""Ice against CoolProp, and the curve of enthalpy."""

import numpy as np
import pytest

from aplomb.core.base.composition import Composition
from aplomb.core.base.errors import AplombError
from aplomb.core.cold.material import Constant, Freezing, Melting, Mixture, curves
from aplomb.core.cold.thermal import (
    ICE_CONDUCTIVITY,
    ICE_DENSITY,
    ICE_HEAT_CAPACITY,
)
from core.cold.outside import properties


@pytest.mark.parametrize("temp", [-30, -18, -5, -1])
def test_ice_is_that_of_coolprop(temp):
    for curve, key, over in (
        (ICE_DENSITY, "D", 1),
        (ICE_CONDUCTIVITY, "L", 1),
        (ICE_HEAT_CAPACITY, "C", 1000),
    ):
        outside = properties(key, "INCOMP::FoodIce", temp) / over
        assert curve.at(temp) == pytest.approx(outside, rel=0.005)


def test_melting_fat_takes_exactly_its_latent_heat():
    """All of 85 kJ/kg between solid and molten, beside the sensible heat."""
    fat = Composition(fat=1.0)
    plain = curves(Mixture(fat), 0, 0, 40)
    melting = curves(Mixture(fat, Melting(((5, 100), (35, 0)), 85.0)), 0, 0, 40)
    more = [
        float(c.enthalpy_at(38) - c.enthalpy_at(2)) / c.density_kg_m3 / 1000
        for c in (melting, plain)
    ]
    assert more[0] - more[1] == pytest.approx(85.0, rel=1e-6)


def test_freezing_water_gives_its_heat_and_is_ice_then():
    """x_ice = x_w·(1 - T_f/T): at -18 °C with a freezing point of -3 °C five sixths are ice."""
    freezing = Freezing(-3.0, 0.4)
    assert freezing.ice_at(-18.0) == pytest.approx(0.4 * 5 / 6)
    assert freezing.ice_at(-2.0) == 0
    made = Composition(water=0.5, carbohydrate=0.5)
    frozen, never = (curves(Mixture(made, None, f), 5, -25, 10) for f in (freezing, None))
    told = [
        float(c.enthalpy_at(0) - c.enthalpy_at(-18)) / c.density_kg_m3 / 1000
        for c in (frozen, never)
    ]
    assert told[0] - told[1] == pytest.approx(333.6 / 3 - 18 * 0.9 * 0.8 * 2.1 / 3, rel=0.1)
    at_20_below = np.interp(-20, frozen.temp_c, frozen.conductivity)
    assert at_20_below > 1.4 * np.interp(-20, never.temp_c, never.conductivity)


def test_enthalpy_and_temperature_are_each_others_way_back():
    known = curves(Mixture(Composition(water=1.0), None, Freezing(-0.5, 0.9)), 5, -20, 20)
    temps = np.linspace(-19, 19, 77)
    assert known.temp_at(known.enthalpy_at(temps)) == pytest.approx(temps, abs=1e-6)
    assert np.all(known.capacity > 0)


@pytest.mark.parametrize(
    ("material", "words"),
    [
        (Mixture(Composition()), "composition"),
        (Mixture(Composition(fat=1), Melting((), 80)), "fat.sfc"),
        (Mixture(Composition(fat=1), Melting(((10, 20), (5, 40)), 80)), "fat.sfc"),
        (Mixture(Composition(fat=1), Melting(((5, 20), (10, 40)), 80)), "fat.sfc"),
        (Mixture(Composition(water=0.3), None, Freezing(-2, 0.4)), "water_fraction"),
        (Mixture(Composition(water=0.3), None, Freezing(0, 0.2)), "starts_c"),
    ],
)
def test_materials_that_cannot_be_are_named(material, words):
    with pytest.raises(AplombError, match=words):
        curves(material, 10, 0, 20)
    assert curves(Constant(1000, 0.5, 2), 10, 0, 20).density_kg_m3 == 1000
