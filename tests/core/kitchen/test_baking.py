"""What physics says of a bake: against closed forms, balances of heat and mass, and limits."""

import math

import numpy as np
import pytest
from scipy.optimize import brentq

from aplomb.core.base.composition import Composition
from aplomb.core.base.errors import FormulaError
from aplomb.core.base.ovens import Oven
from aplomb.core.cold.conduction import course
from aplomb.core.cold.course import Air, Body, Phase, crossing
from aplomb.core.kitchen.baking import (
    BAKED,
    RACK_W_M2_K,
    VAPOUR_KJ_KG,
    cold_at,
    fit_loss,
    load_heat,
    loads_cost,
    middle_at,
)

PASTE = Composition(water=0.3, fat=0.35, protein=0.04, carbohydrate=0.29, salt=0.01)
FAN = Oven("fan", fan=True, trays=5, heat_min=15, rated_kw=8, holding_kw=1.5)


def slab_minutes(thickness_mm, k, rho, c, h, start, air, target):
    """Closed form: one-term series of a slab in air (Carslaw and Jaeger), checked at large Fo."""
    half = thickness_mm / 2000
    biot = h * half / k
    root = brentq(lambda z: z * math.tan(z) - biot, 1e-6, math.pi / 2 - 1e-9)
    first = 4 * math.sin(root) / (2 * root + math.sin(2 * root))
    fo = math.log(first * (air - start) / (air - target)) / root**2
    return fo * half**2 * rho * 1000 * c / k / 60


def test_cooling_on_a_rack_is_the_closed_form_of_a_slab():
    """Against the series solution for a slab in air, to 2 %."""
    found = cold_at(30.0, 21.0, 92.0)
    for h, told in zip(reversed(RACK_W_M2_K), (found.low, found.high), strict=True):
        known = slab_minutes(
            30.0,
            BAKED.conductivity_w_m_k,
            BAKED.density_kg_m3,
            BAKED.heat_capacity_kj_kg_k,
            h,
            92.0,
            21.0,
            24.0,
        )
        assert told == pytest.approx(known, rel=0.02)


def test_the_middle_is_hot_sooner_in_a_fan_and_later_when_thick():
    thin, thick = (middle_at(PASTE, mm, 4, 200, FAN) for mm in (8, 24))
    still = middle_at(PASTE, 8, 4, 200, Oven("deck", fan=False))
    assert thin.low < thin.high < thick.high
    assert still.low > thin.low
    assert thick.low / thin.low > 3  # between the thickness and its square


def test_a_middle_that_never_gets_there_is_said():
    assert middle_at(PASTE, 200, 4, 120, FAN) is None


def test_the_soonest_middle_is_conduction_alone():
    """By the model of the cold, with the same figures."""
    from aplomb.core.cold.material import Constant
    from aplomb.core.cold.thermal import conductivity_w_m_k, density_g_ml, heat_capacity_kj_kg_k

    body = Body(
        Constant(
            1000 * density_g_ml(PASTE, 60),
            conductivity_w_m_k(PASTE, 60),
            heat_capacity_kj_kg_k(PASTE, 60),
        ),
        12,
    )
    ran = course(body, 4, [Phase(60, Air(200, 38), Air(200, 38))])
    known = crossing(ran.minutes, ran.core, 95.0)
    assert middle_at(PASTE, 12, 4, 200, FAN).low == pytest.approx(known, rel=0.01)


def test_heat_of_a_load_is_what_balances():
    """By hand: 2 kg warmed from 5 to 100, 14 % of it boiled away, two trays; the oven's own."""
    from aplomb.core.cold.thermal import heat_capacity_kj_kg_k

    load = load_heat(FAN, 2, 1000, 0.22, 200, 25, PASTE, 5)
    c = heat_capacity_kj_kg_k(PASTE, 60)
    heat = 2 * (c * 95 + 0.14 * VAPOUR_KJ_KG) + 2 * 0.75 * 180
    assert load.kwh == pytest.approx(heat / 3600 + 1.5 * 25 / 60)
    assert load.mean_kw * 25 / 60 == pytest.approx(load.kwh)
    assert load.first_kw > load.mean_kw - FAN.holding_kw


def test_a_half_empty_oven_costs_more_for_the_same():
    load = load_heat(FAN, 5, 800, 0.22, 200, 25, PASTE)
    one, three = (loads_cost(FAN, load, n, 25) for n in (1, 3))
    assert one.half_empty > 0
    assert three.a_kg_kwh < one.a_kg_kwh  # heating is paid once
    assert three.minutes == 15 + 3 * 25 + 2 * 5
    none = Oven("x", holding_kw=0.02, rated_kw=8, heat_min=0)
    free = loads_cost(none, load_heat(none, 5, 800, 0.22, 200, 25, PASTE), 1, 25)
    assert free.half_empty == pytest.approx(0, abs=0.02)  # nothing of its own to pay


@pytest.mark.parametrize("act", [
    lambda: load_heat(FAN, 0, 800, 0.2, 200, 25, PASTE),
    lambda: load_heat(FAN, 1, 800, 0.2, 900, 25, PASTE),
    lambda: load_heat(FAN, 1, 800, 0.2, 200, 0, PASTE),
    lambda: load_heat(FAN, 1, math.nan, 0.2, 200, 25, PASTE),
    lambda: fit_loss([(5, 2), (10, 4)]), lambda: fit_loss([(0, 0), (5, 0), (9, 0)]),
    lambda: fit_loss([(1, math.nan), (2, 3), (4, 5)]), lambda: fit_loss([(1, 95), (2, 3), (4, 5)]),
])  # fmt: skip
def test_figures_that_cannot_be_are_refused(act):
    with pytest.raises(FormulaError):
        act()


@pytest.mark.parametrize("seed", range(4))
def test_the_loss_curve_is_found_again(seed):
    """Rendered truth with a scatter of 0.2 %: what comes out at any time is within 1 %."""
    rng = np.random.default_rng(seed)
    most, after, time = rng.uniform(10, 18), rng.uniform(2, 6), rng.uniform(6, 14)

    def truth(t):
        return most * (1 - math.exp(-max(0.0, t - after) / time))

    at = [4, 8, 12, 18, 25, 32]
    found = fit_loss([(t, max(0.0, truth(t) + rng.normal(0, 0.2))) for t in at])
    for t in (6, 10, 15, 22, 30):
        assert found.at(t) == pytest.approx(truth(t), abs=1.0)
    assert found.at(0) == 0


def test_lost_and_kept_are_all_there_was():
    """Mass balance: what the curve says is lost and what is left make the raw mass."""
    found = fit_loss([(5, 2), (10, 7), (20, 12), (30, 14)])
    raw = 25.0
    for t in (0, 7, 21, 60):
        lost = raw * found.at(t) / 100
        assert 0 <= lost <= raw
        assert lost + (raw - lost) == raw
    assert found.at(1000) == pytest.approx(found.most_pct)
