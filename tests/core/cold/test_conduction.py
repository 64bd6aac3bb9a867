"""Heat through slabs and boxes, against what is known of them by other ways."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq
from scipy.special import erf, erfc

from aplomb.core.base.composition import Composition, mixed
from aplomb.core.base.errors import AplombError
from aplomb.core.cold.conduction import course
from aplomb.core.cold.course import Air, Body, Phase, Slab, crossing, ready_window
from aplomb.core.cold.material import Constant, Freezing, Melting, Mixture, curves

K, RHO, CP = 0.5, 1000.0, 2.0
PLAIN = Constant(RHO, K, CP)
ALPHA = K / (1000 * RHO * CP)

FLOUR = Composition(water=0.14, fat=0.012, protein=0.11, carbohydrate=0.7, fibre=0.03, ash=0.006)
BUTTER = Composition(water=0.16, fat=0.82, protein=0.008, carbohydrate=0.007, ash=0.002)
BUTTER_SFC = ((0, 68), (5, 60), (10, 52), (15, 38), (20, 20), (25, 12), (30, 5), (35, 0))
PASTE = Mixture(
    mixed([(100, FLOUR), (50, Composition(water=1)), (2, Composition(salt=1)), (100, BUTTER)]),
    Melting(BUTTER_SFC, 85.0),
    Freezing(-3.1, (64 - 21.5) / 252),
)


def wall(biot: float, fourier: float, where: float) -> float:
    """(T - T_air)/(T_0 - T_air) in a plane wall, `where` 0 in its middle and 1 at its face.

    The exact series of Incropera & DeWitt, Fundamentals of Heat and Mass Transfer, chapter
    "Transient conduction": ζ·tan ζ = Bi, C = 4 sin ζ / (2ζ + sin 2ζ).
    """
    whole = 0.0
    for n in range(60):
        low, high = n * math.pi + 1e-9, n * math.pi + math.pi / 2 - 1e-9
        zeta = brentq(lambda z: z * math.sin(z) - biot * math.cos(z), low, high)
        part = 4 * math.sin(zeta) / (2 * zeta + math.sin(2 * zeta))
        whole += part * math.exp(-(zeta**2) * fourier) * math.cos(zeta * where)
    return whole


@pytest.mark.parametrize("biot", [0.1, 0.3, 1.0, 3.0, 10.0])
def test_a_plane_wall_cools_as_the_series_says(biot):
    half = 0.015
    h = biot * K / half
    face = Air(0.0, h)
    end = 2.0 * half**2 / ALPHA / 60 * max(1.0, 0.5 / biot)
    found = course(Body(PLAIN, 30.0), 20.0, [Phase(end, face, face)], tolerance_k=0.002)
    for share in (0.1, 0.2, 0.5, 1.0):
        fourier = ALPHA * 60 * share * end / half**2
        core, _, top, bottom = found.at(share * end)
        assert core == pytest.approx(20 * wall(biot, fourier, 0.0), abs=0.02)
        assert top == pytest.approx(20 * wall(biot, fourier, 1.0), abs=0.02)
        assert bottom == pytest.approx(top, abs=1e-6)


@pytest.mark.parametrize("biot", [0.1, 1.0, 10.0])
def test_a_cube_cools_as_the_product_of_three_walls(biot):
    """A body cut out of three walls cools by the product of theirs (Incropera & DeWitt)."""
    half = 0.02
    face = Air(0.0, biot * K / half)
    end = 0.8 * half**2 / ALPHA / 60 * max(0.4, 0.3 / biot)
    body = Body(PLAIN, 40.0, 40.0, 40.0)
    found = course(body, 20.0, [Phase(end, face, face, face)], tolerance_k=0.01)
    for share in (0.4, 1.0):
        fourier = ALPHA * 60 * share * end / half**2
        middle, edge = wall(biot, fourier, 0.0), wall(biot, fourier, 1.0)
        core, _, top, _ = found.at(share * end)
        assert core == pytest.approx(20 * middle**3, abs=0.12)
        assert top == pytest.approx(20 * edge * middle**2, abs=0.12)
        coldest = float(np.interp(share * end, found.minutes, found.coldest))
        assert coldest == pytest.approx(20 * edge**3, abs=0.15)


def test_two_deep_bodies_meet_at_the_contact_temperature():
    """Semi-infinite bodies in perfect contact: T = Σ eᵢTᵢ / Σ eᵢ, e = √(k·ρ·c)."""
    stone = Slab(80.0, 2.8, 2700.0, 0.8, 22.0, 1e6)
    found = course(
        Body(PLAIN, 60.0), 6.0, [Phase(1.0, Air(6.0, 0.0), stone)], nodes=301, tolerance_k=0.002
    )
    of_block, of_stone = math.sqrt(K * RHO * 1000 * CP), math.sqrt(2.8 * 2700 * 800)
    meet = (of_block * 6 + of_stone * 22) / (of_block + of_stone)
    assert found.at(0.2)[3] == pytest.approx(meet, abs=0.15)
    assert found.at(1.0)[3] == pytest.approx(meet, abs=0.15)


def test_a_deep_body_under_air_follows_the_error_function():
    """Semi-infinite solid with convection (Carslaw & Jaeger, Conduction of Heat in Solids)."""
    h, minutes = 20.0, 10.0
    face = Air(0.0, h)
    found = course(
        Body(PLAIN, 200.0), 20.0, [Phase(minutes, face, Air(20, 0))], 401, tolerance_k=0.002
    )
    deep = 2 * math.sqrt(ALPHA * 60 * minutes)
    for depth in (0.0, 0.003, 0.01):
        u, v = depth / deep, h / K * math.sqrt(ALPHA * 60 * minutes)
        fall = erfc(u) - math.exp(h * depth / K + v * v) * erfc(u + v)
        column = np.array([np.interp(depth * 1000, found.depth_mm, row) for row in found.field])
        assert column[-1] == pytest.approx(20 * (1 - fall), abs=0.02)


def test_ice_grows_into_water_as_neumann_says():
    """Solidification of a half space (Neumann; Carslaw & Jaeger): front = 2λ√(α_s·t)."""
    water = Mixture(Composition(water=1.0), None, Freezing(-0.01, 1.0))
    cold, start = -10.0, 0.01
    found = course(
        Body(water, 60.0),
        start,
        [Phase(60, Air(cold, 1e5), Air(start, 0))],
        301,
        tolerance_k=0.02,
    )
    known = curves(water, start, cold, start)
    ice = np.interp(-5.0, known.temp_c, known.conductivity)
    per_k = (known.enthalpy_at(-4.0) - known.enthalpy_at(-8.0)) / 4
    latent = float(known.enthalpy_at(0.0) - known.enthalpy_at(-0.2)) - 0.2 * per_k
    stefan = per_k * abs(cold) / latent
    grown = brentq(lambda x: x * math.exp(x * x) * erf(x) - stefan / math.sqrt(math.pi), 1e-6, 3)
    front = 2 * grown * math.sqrt(ice / per_k * 3600) * 1000
    there = float(np.interp(-0.02, found.field[-1], found.depth_mm))
    assert there == pytest.approx(front, rel=0.04)


@pytest.mark.parametrize(("air", "thick"), [(4.0, 60.0), (-18.0, 30.0), (-30.0, 8.0)])
def test_heat_in_is_heat_stored(air, thick):
    face = Air(air, 7.0)
    for body in (Body(PASTE, thick), Body(PASTE, thick, 90.0, 120.0)):
        found = course(body, 20.0, [Phase(120, face, Air(air, 5.0), face)])
        assert found.energy_error < 1e-3
    under = Slab(30.0, 2.8, 2700.0, 0.8, 22.0, 250.0)
    found = course(Body(PASTE, thick), 5.0, [Phase(60, Air(22, 8), under)])
    assert found.energy_error < 1e-3


def test_what_is_stored_is_what_the_curve_of_enthalpy_says():
    """From one temperature throughout to another, however it went on the way."""
    face = Air(-18.0, 9.0)
    found = course(Body(PASTE, 20.0), 20.0, [Phase(3000, face, face)])
    known = curves(PASTE, 20.0, -18.0, 20.0)
    assert found.mean[-1] == pytest.approx(-18.0, abs=0.02)
    fell = float(known.enthalpy_at(20.0) - known.enthalpy_at(-18.0))
    per_g = fell / known.density_kg_m3 / 1e3
    ice = PASTE.freezing.ice_at(-18.0)
    # By hand: 2.45 kJ/kg·K above freezing (a third each of water and fat, the rest at 1.6) and 2.2
    # below, 333.6 kJ/kg of ice, 85 kJ/kg of the 48 % of the fat that sets.
    by_hand = 23.1 * 2.45 + 14.9 * 2.2 + 333.6 * ice + 85 * 0.33 * 0.48
    assert per_g == pytest.approx(by_hand, rel=0.05)


def test_finer_points_and_steps_change_little():
    face = Air(-18.0, 8.0)
    rough = course(Body(PASTE, 30.0), 20.0, [Phase(600, face, face)])
    finer = course(Body(PASTE, 30.0), 20.0, [Phase(600, face, face)], 81, tolerance_k=0.02)
    for level in (12.0, 4.0, 0.0, -10.0):
        one, other = (crossing(f.minutes, f.core, level) for f in (rough, finer))
        assert one == pytest.approx(other, rel=0.01)
    for minutes in range(5, 600, 5):
        assert rough.at(minutes) == pytest.approx(finer.at(minutes), abs=0.06)


def test_the_quick_way_and_the_general_way_agree():
    """A slab between two airs goes through one routine, a box through another."""
    above, below = Air(-18.0, 8.0), Air(-18.0, 5.0)
    slab = course(Body(PASTE, 30.0), 20.0, [Phase(300, above, below)], tolerance_k=0.01)
    box = course(
        Body(PASTE, 30.0, 400.0, 400.0), 20.0, [Phase(300, above, below)], 41, tolerance_k=0.01
    )
    for minutes in (10, 40, 90, 200, 300):
        assert slab.at(minutes) == pytest.approx(box.at(minutes), abs=0.03)


def test_two_stays_in_one_place_are_one_stay():
    face = Air(4.0, 8.0)
    once = course(Body(PASTE, 30.0), 20.0, [Phase(100, face, face)], tolerance_k=0.005)
    twice = course(
        Body(PASTE, 30.0),
        20.0,
        [Phase(37, face, face), Phase(63, face, face)],
        tolerance_k=0.005,
    )
    assert once.at(100) == pytest.approx(twice.at(100), abs=0.01)
    assert all(b > a for a, b in pairwise(twice.minutes))


@settings(max_examples=25, deadline=None)
@given(
    thick=st.floats(2, 120),
    start=st.floats(-18, 30),
    air=st.floats(-30, 40),
    h=st.floats(0.5, 60),
    minutes=st.floats(1, 600),
)
def test_no_part_goes_beyond_what_touches_it(thick, start, air, h, minutes):
    face = Air(air, h)
    found = course(Body(PASTE, thick), start, [Phase(minutes, face, face)])
    low, high = min(start, air) - 0.02, max(start, air) + 0.02
    assert low <= found.coldest.min()
    assert found.warmest.max() <= high
    assert found.energy_error < 1e-3


def wrapped(h: float) -> float:
    return 1 / (1 / h + 0.02)


@pytest.mark.parametrize(
    ("thick", "air", "above", "below", "latent", "range_c", "from_to"),
    [
        # Worked out beforehand for full butter paste from 20 °C, wrapped, by another program.
        (30, 4, 8, 6.5, True, (12, 16), (57, 97)),
        (30, 4, 8, 6.5, False, (12, 16), (41, 71)),
        (15, 4, 8, 6.5, True, (12, 16), (25, 51)),
        (30, 4, 12, 10, True, (12, 16), (43, 66)),
        (30, -18, 9, 7.5, True, (12, 16), None),
        (30, -18, 9, 7.5, True, (8, 16), (24, 38)),
        (60, -18, 9, 7.5, True, (8, 16), None),
    ],
)
def test_full_butter_paste_is_ready_when_it_was_worked_out_to_be(
    thick, air, above, below, latent, range_c, from_to
):
    material = PASTE if latent else PASTE.without_latent_heat()
    phase = Phase(300, Air(air, wrapped(above)), Air(air, wrapped(below)))
    found = ready_window(course(Body(material, thick), 20, [phase], tolerance_k=0.01), *range_c)
    if from_to is None:
        assert found is None
    else:
        assert found == pytest.approx(from_to, abs=1.0)


@pytest.mark.parametrize(
    ("under", "minutes"),
    [
        (Slab(30.0, 2.8, 2700.0, 0.8, 22.0, 250.0), 10),
        (Slab(1.5, 16.0, 7900.0, 0.5, 22.0, 250.0, Air(22.0, 8.0)), 31),
        (Slab(40.0, 0.17, 650.0, 1.6, 22.0, 250.0), 32),
    ],
    ids=["stone", "thin steel table", "wood"],
)
def test_a_sheet_warms_on_a_bench_as_it_was_worked_out_to(under, minutes):
    """10 mm from 6 °C at 22 °C to a mean of 15 °C; stone takes it there in a third of the time."""
    found = course(Body(PASTE, 10.0), 6.0, [Phase(90, Air(22.0, 8.0), under)])
    assert crossing(found.minutes, found.mean, 15.0) == pytest.approx(minutes, rel=0.05)


@pytest.mark.parametrize(
    ("sides", "quicker"), [((150, 200), 1.04), ((100, 150), 1.16), ((60, 80), 1.54)]
)
def test_small_blocks_are_quicker_than_a_slab(sides, quicker):
    """By how much too long the times of a slab are, worked out beforehand (30 mm, 10 °C inside)."""
    above, below = Air(4.0, wrapped(8)), Air(4.0, wrapped(6.5))
    slab, box = (
        course(body, 20.0, [Phase(300, above, below, above)])
        for body in (Body(PASTE, 30.0), Body(PASTE, 30.0, *sides))
    )
    ratio = crossing(slab.minutes, slab.core, 10) / crossing(box.minutes, box.core, 10)
    assert ratio == pytest.approx(quicker, rel=0.03)


def test_temperatures_beyond_what_is_known_are_refused():
    face = Air(-60.0, 8.0)
    with pytest.raises(AplombError, match="outside -40 to 150|outside −40 to 150"):
        course(Body(PASTE, 30.0), 20.0, [Phase(10, face, face)])
    with pytest.raises(AplombError, match="at least one"):
        course(Body(PASTE, 30.0), 20.0, [])


def test_a_window_is_open_only_while_every_part_is_within():
    face = Air(25.0, 8.0)
    found = course(Body(PLAIN, 20.0), 5.0, [Phase(600, face, face)])
    low, high = 12.0, 16.0
    start, end = ready_window(found, low, high)
    assert np.interp(start, found.minutes, found.coldest) == pytest.approx(low, abs=0.05)
    assert np.interp(end, found.minutes, found.warmest) == pytest.approx(high, abs=0.05)
    assert ready_window(found, 30.0, 32.0) is None
    still = course(Body(PLAIN, 20.0), 14.0, [Phase(60, Air(14, 8), Air(14, 8))])
    assert ready_window(still, low, high) == (0.0, 60.0)
