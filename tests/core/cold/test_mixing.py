"""Water temperature and ice: against the bakers' rule, and by heat balance worked backwards."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.constants import ICE_KJ_KG_K, ICE_MELT_KJ_KG
from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.batch.water import dough_water
from aplomb.core.cold.mixing import WATER_KJ_KG_K, Portion, water_and_ice


def test_the_textbook_rule_for_ice():
    """Ice = water × (tap − wanted) / (tap + 80), the bakers' textbook formula in °C, for water
    alone; 80 is 333.6 kJ/kg over 4.18."""
    found = water_and_ice([], 1000, 4, 20)
    assert found.ice_g == pytest.approx(1000 * (20 - 4) / (20 + 80), rel=0.003)
    assert found.ice_g + found.water_g == pytest.approx(1000)


def test_water_temperature_by_hand():
    """1000 g flour of 1.8 kJ/kg·K at 20 °C and 500 g water to 16 °C, mixing warms by 2 K: the
    water must be at 16 − (1800 × 4 + 2 × (1800 + 500 c)) / (500 c)."""
    c = WATER_KJ_KG_K
    found = water_and_ice([Portion(1000, 1.8, 20)], 500, 16, 12, mixing_k=2)
    assert found.needed_c == pytest.approx(16 - (1800 * 4 + 2 * (1800 + 500 * c)) / (500 * c))
    assert found.dough_c == pytest.approx(16)
    assert found.reached


@given(
    st.floats(100, 5000),
    st.floats(10, 30),
    st.floats(50, 3000),
    st.floats(5, 25),
    st.floats(5, 25),
    st.floats(-20, 0),
    st.floats(0, 6),
)
def test_heat_is_kept(flour, flour_c, water, wanted, tap, ice_c, mixing):
    """What the warm side gives is what ice and water take."""
    found = water_and_ice([Portion(flour, 1.8, flour_c)], water, wanted, tap, ice_c, mixing)
    c, t = WATER_KJ_KG_K, found.dough_c
    if found.needed_c < tap:
        whole = flour * 1.8 + water * c
        given = flour * 1.8 * (flour_c - t) + found.water_g * c * (tap - t) + mixing * whole
        taken = found.ice_g * (-ICE_KJ_KG_K * ice_c + ICE_MELT_KJ_KG + c * t)
        assert given == pytest.approx(taken, abs=1e-6 * whole + 1e-6)
    assert found.reached == (abs(t - wanted) < 1e-6)


def test_ice_that_is_not_enough_says_how_far_it_goes():
    found = water_and_ice([Portion(1000, 1.8, 38)], 50, 5, 20)
    assert not found.reached
    assert found.water_g == 0
    assert found.dough_c > 5


@pytest.mark.parametrize(("water", "ice"), [(0, 0), (-5, 0), (100, 3)])
def test_no_water_or_warm_ice(water, ice):
    with pytest.raises(AplombError):
        water_and_ice([], water, 10, 15, ice)


def test_of_a_formula(plain, pantry):
    found = dough_water(plain, pantry, House(), 2.0)
    assert found.ice_g + found.water_g == pytest.approx(1000)
    assert (
        dough_water(plain.with_lines(type(plain.all_lines()[0][0])("dough"), ()), pantry, House())
        is None
    )
