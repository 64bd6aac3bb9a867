"""Choi–Okos properties against CoolProp's food components, an independent implementation."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.composition import Composition, mixed
from aplomb.core.base.errors import AplombError
from aplomb.core.cold.thermal import (
    CONDUCTIVITY,
    DENSITY,
    HEAT_CAPACITY,
    conductivity_w_m_k,
    density_g_ml,
    heat_capacity_kj_kg_k,
)
from core.cold.outside import properties

FLUIDS = {
    "water": "FoodWater", "fat": "FoodFat", "protein": "FoodProtein",
    "carbohydrate": "FoodCarbohydrate", "fibre": "FoodFiber", "ash": "FoodAsh",
}  # fmt: skip


def coolprop(what: str, component: str, temp_c: float) -> float:
    return properties(what, "INCOMP::" + FLUIDS[component], temp_c)


@pytest.mark.parametrize("component", FLUIDS)
@pytest.mark.parametrize("temp_c", [-30.0, -5.0, 2.0, 12.0, 25.0, 60.0, 95.0])
def test_components_agree_with_coolprop(component, temp_c):
    assert DENSITY[component].at(temp_c) == pytest.approx(
        coolprop("D", component, temp_c), rel=1e-3
    )
    assert CONDUCTIVITY[component].at(temp_c) == pytest.approx(
        coolprop("L", component, temp_c), rel=1e-3
    )
    # Water's first term is printed two ways (see HEAT_CAPACITY): 1.2 % apart.
    near = 1.3e-2 if component == "water" else 1e-3
    assert HEAT_CAPACITY[component].at(temp_c) == pytest.approx(
        coolprop("C", component, temp_c) / 1000, rel=near
    )


@pytest.mark.parametrize("temp_c", [5.0, 20.0, 40.0, 80.0])
def test_water_agrees_with_the_steam_tables(temp_c):
    """IAPWS-95 as in CoolProp: the reason for taking 4.1762."""
    real = properties("C", "Water", temp_c) / 1000
    assert HEAT_CAPACITY["water"].at(temp_c) == pytest.approx(real, rel=7e-3)
    assert DENSITY["water"].at(temp_c) == pytest.approx(properties("D", "Water", temp_c), rel=5e-3)


def test_butter_lies_where_handbooks_put_it(pantry):
    """Common practice: butter is 0.91–0.95 g/mL and takes 2.2–2.5 kJ/(kg·K) without melting."""
    butter = pantry["butter"].composition
    assert 0.91 < density_g_ml(butter, 12) < 0.95
    assert 2.2 < heat_capacity_kj_kg_k(butter, 12) < 2.5


fractions = st.lists(st.floats(0, 1), min_size=6, max_size=6).filter(lambda x: sum(x) > 0.01)


@given(fractions, st.floats(0, 100))
def test_a_mixture_lies_between_its_parts(parts, temp_c):
    total = sum(parts)
    shares = dict(zip(FLUIDS, (p / total for p in parts), strict=True))
    mixture = Composition(**shares)
    there = [name for name, share in shares.items() if share > 0]
    for whole, table, scale in (
        (density_g_ml, DENSITY, 1e-3),
        (heat_capacity_kj_kg_k, HEAT_CAPACITY, 1),
        (conductivity_w_m_k, CONDUCTIVITY, 1),
    ):
        each = [table[name].at(temp_c) * scale for name in there]
        assert min(each) * (1 - 1e-9) <= whole(mixture, temp_c) <= max(each) * (1 + 1e-9)


def test_volumes_add(pantry):
    """Density is the harmonic mean: volumes of parts add up to that of the mixture."""
    a, b = pantry["plain_flour"].composition, pantry["water"].composition
    a = Composition(**{n: getattr(a, n) / a.total for n in a.__struct_fields__})
    apart = 1000 / density_g_ml(a, 12) + 500 / density_g_ml(b, 12)
    together = 1500 / density_g_ml(mixed([(1000, a), (500, b)]), 12)
    assert together == pytest.approx(apart, rel=1e-9)


def test_refuses_outside_its_range():
    with pytest.raises(AplombError, match="outside -40 to 150"):
        density_g_ml(Composition(water=1), 200)
    with pytest.raises(AplombError, match="no composition"):
        density_g_ml(Composition(), 20)
    assert mixed([]) == Composition()
