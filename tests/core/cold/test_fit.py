"""A place's coefficient from a probe whose offset and depth are not known."""

import numpy as np
import pytest

from aplomb.core.base.errors import AplombError
from aplomb.core.cold.conduction import course
from aplomb.core.cold.course import Air, Body, Phase
from aplomb.core.cold.fit import fit_coefficient
from aplomb.core.cold.material import Constant

PASTE = Constant(1080.0, 0.33, 2.6)
BODY = Body(PASTE, 30.0)


def log_of(h, minutes, *, offset=0.0, depth=15.0, noise=0.0, rng=None, air=4.0):
    face = Air(air, h)
    found = course(BODY, 20.0, [Phase(minutes[-1], face, face)], tolerance_k=0.005)
    column = np.array([np.interp(depth, found.depth_mm, row) for row in found.field])
    said = np.interp(minutes, found.minutes, column) + offset
    return said + (rng.normal(0, noise, len(said)) if rng else 0.0)


def test_a_clean_log_gives_its_coefficient_back():
    minutes = np.linspace(0, 120, 40)
    found = fit_coefficient(BODY, 20, 4, 15, minutes, log_of(7.4, minutes))
    assert found.w_m2_k == pytest.approx(7.4, rel=0.01)
    assert found.low_w_m2_k < 7.4 < found.high_w_m2_k


def test_an_offset_of_the_probe_is_found_and_not_taken_for_the_place():
    minutes = np.linspace(0, 120, 40)
    found = fit_coefficient(BODY, 20, 4, 15, minutes, log_of(7.4, minutes, offset=1.2))
    assert found.offset_k == pytest.approx(1.2, abs=0.3)
    assert found.w_m2_k == pytest.approx(7.4, rel=0.05)


def test_the_interval_holds_the_truth_nearly_always():
    """12 logs with noise, an offset and a wrong depth; 95 of 100 are wanted, 2 misses are rare."""
    rng = np.random.default_rng(11)
    held = 0
    for _ in range(12):
        h = rng.uniform(4, 20)
        minutes = np.linspace(2, rng.uniform(60, 150), int(rng.integers(15, 50)))
        temps = log_of(
            h, minutes, offset=rng.normal(0, 0.8), depth=15 + rng.normal(0, 1.2), noise=0.1, rng=rng
        )
        found = fit_coefficient(BODY, 20, 4, 15, minutes, temps)
        held += found.low_w_m2_k <= h <= found.high_w_m2_k
    assert held >= 10


def test_a_jump_and_a_gap_do_not_carry_it_away():
    minutes = np.concatenate((np.linspace(0, 40, 20), np.linspace(80, 120, 20)))
    temps = log_of(7.4, minutes, noise=0.05, rng=np.random.default_rng(1))
    temps[7] += 6.0
    temps[25] -= 9.0
    found = fit_coefficient(BODY, 20, 4, 15, minutes, temps)
    assert found.w_m2_k == pytest.approx(7.4, rel=0.06)
    assert found.set_aside >= 2


@pytest.mark.parametrize(
    ("minutes", "temps", "words"),
    [
        ([0, 10, 20], [20, 19, 18], "3 readings"),
        ([0, 10, 20, 30, 40], [20, 19, 18, 17], "4 readings for 5"),
        ([0, 10, 10, 30, 40], [20, 19, 18, 17, 16], "reading 3"),
        ([0, 10, 20, 30, 40], [20, 19, float("nan"), 17, 16], "reading 3 is not a number"),
        ([-5, 10, 20, 30, 40], [20, 19, 18, 17, 16], "before the start"),
        ([0, 0.1, 0.2, 0.3, 0.4], [20, 20, 20, 20, 20], "hardly changed"),
    ],
)
def test_logs_that_cannot_be_used_are_named(minutes, temps, words):
    with pytest.raises(AplombError, match=words):
        fit_coefficient(BODY, 20, 4, 15, np.array(minutes, float), np.array(temps, float))


def test_a_probe_outside_the_block_and_air_as_warm_as_it_are_refused():
    minutes = np.linspace(0, 60, 10)
    with pytest.raises(AplombError, match="than a block"):
        fit_coefficient(BODY, 20, 4, 40, minutes, log_of(7, minutes))
    with pytest.raises(AplombError, match="too close"):
        fit_coefficient(BODY, 20, 19.5, 15, minutes, log_of(7, minutes))
