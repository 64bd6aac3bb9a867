"""The surface coefficient of a place, fitted from what a probe in a block said."""

import math
from collections.abc import Callable

import numpy as np
from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import celsius_text, mm_text
from aplomb.core.cold.conduction import FINE_K, course
from aplomb.core.cold.course import Air, Body, Course, Phase
from aplomb.core.cold.material import Floats

OFFSET_K = 1.0
"""How far off a probe may be throughout, one standard deviation [K], recalled."""
DEPTH_MM = 1.5
"""How far a probe's tip may lie from where it was meant to, one standard deviation [mm]."""
LEAST_NOISE_K = 0.03
"""Scatter of a reading at the least [K]: a display shows tenths."""
LEAST_READINGS = 5
MOST_READINGS = 200_000
LEAST_APART_K = 2.0
"""Air and block must be so far apart at the start, or nothing can be told [K]."""
LEAST_W, MOST_W = 0.5, 2000.0
FAR_OFF = 2.5
"""A reading further off than so many times the scatter counts for less [-]."""


class Fitted(Struct, frozen=True):
    """A fitted coefficient.

    Attributes
    ----------
    w_m2_k, low_w_m2_k, high_w_m2_k : float
        The likeliest, and the ends between which it lies in 95 of 100 cases [W/(m²·K)].
    offset_k : float
        What the probe seems to read too high [K].
    depth_mm : float
        Where its tip seems to lie [mm].
    scatter_k : float
        Of the readings round the curve [K].
    set_aside : int
        Readings that lie far off the curve and counted for less [-].
    course : Course
        With the likeliest coefficient.
    """

    w_m2_k: float
    low_w_m2_k: float
    high_w_m2_k: float
    offset_k: float
    depth_mm: float
    scatter_k: float
    set_aside: int
    course: Course


def check_log(minutes: Floats, temps_c: Floats) -> None:
    """Refuse a probe's log that cannot be used.

    Parameters
    ----------
    minutes, temps_c : array of shape (readings,)
        [min], [°C].

    Raises
    ------
    AplombError
        Naming the reading.
    """
    if len(minutes) != len(temps_c):
        raise AplombError(
            f"temp_c: {len(temps_c)} readings for {len(minutes)} times; give the same "
            "number of both"
        )
    if not LEAST_READINGS <= len(minutes) <= MOST_READINGS:
        raise AplombError(
            f"minutes: {len(minutes)} readings are given; use {LEAST_READINGS} to {MOST_READINGS}"
        )
    for what, values in (("minutes", minutes), ("temp_c", temps_c)):
        bad = np.nonzero(~np.isfinite(values))[0]
        if len(bad):
            raise AplombError(f"{what}: reading {int(bad[0]) + 1} is not a number")
    back = np.nonzero(np.diff(minutes) <= 0)[0]
    if len(back):
        raise AplombError(f"minutes: reading {int(back[0]) + 2} must be later than the one before")
    if minutes[0] < 0:
        raise AplombError("minutes: the first reading is before the start")


def fit_coefficient(
    body: Body,
    start_c: float,
    air_c: float,
    probe_mm: float,
    minutes: Floats,
    temps_c: Floats,
) -> Fitted:
    """Fit the surface coefficient of both faces to a probe's readings.

    Parameters
    ----------
    start_c, air_c : float
        The block throughout at the start, and the air [°C].
    probe_mm : float
        Depth of the probe's tip below the upper face [mm].
    minutes, temps_c : array of shape (readings,)
        Times from the start [min] and what the probe said [°C].

    Raises
    ------
    AplombError
        When the log cannot be used, or says nothing of the coefficient.

    Notes
    -----
    Least squares over ln h, the probe's constant offset and the depth of its tip, the last two
    held near 0 and near what was meant by what is likely of them (a maximum a posteriori estimate);
    readings far off count for less (Huber 1964, *Robust estimation of a location parameter*, Ann.
    Math. Statist. 35). The interval follows from the curvature at the best point with Student's t.
    Without the offset as an unknown it would be far too narrow.
    """
    check_log(minutes, temps_c)
    if not 0 <= probe_mm <= body.thickness_mm:
        raise AplombError(
            f"probe_depth_mm: {mm_text(probe_mm)} is deeper than a block of "
            f"{mm_text(body.thickness_mm)}"
        )
    if abs(start_c - air_c) < LEAST_APART_K:
        raise AplombError(
            f"air_c: {celsius_text(air_c)} is too close to the block’s "
            f"{celsius_text(start_c)} to tell anything; use a colder place or a warmer "
            "block"
        )
    end = float(minutes[-1])

    end = max(float(minutes[-1]), 0.1)

    def run(log_h: float) -> Course:
        face = Air(air_c, math.exp(log_h))
        return course(body, start_c, [Phase(end, face, face, face)], tolerance_k=FINE_K)

    log = _Log(minutes, temps_c, probe_mm, body.thickness_mm)
    at, scatter, inverse, weights = _search(run, log)
    found = run(at[0])
    if float(np.ptp(np.interp(minutes, found.minutes, found.mean))) < LEAST_APART_K / 4:
        raise AplombError(
            "temp_c: the block hardly changed while the probe was read; read it for longer"
        )
    from scipy.special import stdtrit  # slow to import, and wanted here only

    t = float(stdtrit(max(len(minutes) - 3, 1), 0.975))
    wide = t * math.sqrt(float(inverse[0, 0]))
    return Fitted(
        math.exp(at[0]),
        math.exp(at[0] - wide),
        math.exp(at[0] + wide),
        float(at[1]),
        probe_mm + float(at[2]),
        scatter,
        int((weights < 0.5).sum()),
        found,
    )


class _Log(Struct, frozen=True):
    minutes: Floats
    temps: Floats
    probe_mm: float
    thick_mm: float

    def said_by(self, found: Course, off_k: float, deeper_mm: float) -> Floats:
        """What the probe would have said on this course [°C]."""
        depth = min(max(self.probe_mm + deeper_mm, 0.0), self.thick_mm)
        i = min(int(np.searchsorted(found.depth_mm, depth, "right")) - 1, len(found.depth_mm) - 2)
        share = (depth - found.depth_mm[i]) / (found.depth_mm[i + 1] - found.depth_mm[i])
        column = found.field[:, i] * (1 - share) + found.field[:, i + 1] * share
        return np.asarray(np.interp(self.minutes, found.minutes, column)) + off_k


_PRIOR = np.diag([0.0, OFFSET_K**-2, DEPTH_MM**-2])


def _search(run: Callable[[float], Course], log: _Log) -> tuple[Floats, float, Floats, Floats]:
    """Find ln h, offset and depth; with the scatter, their covariance, the weights."""
    tried = {}
    for h in (2.0, 5.0, 10.0, 20.0, 50.0, 150.0):
        apart = log.temps - log.said_by(run(math.log(h)), 0.0, 0.0)
        tried[h] = float(np.abs(apart - np.median(apart)).sum())
    at = np.array([math.log(min(tried, key=lambda h: tried[h])), 0.0, 0.0])
    weights: Floats = np.ones(len(log.minutes))
    scatter = 1.0
    for _ in range(25):
        here, ahead = run(at[0]), run(at[0] + 0.02)
        said = log.said_by(here, at[1], at[2])
        rest = log.temps - said
        slopes = np.stack(
            [
                (log.said_by(ahead, at[1], at[2]) - said) / 0.02,
                np.ones(len(said)),
                log.said_by(here, 0.0, at[2] + 0.25) - log.said_by(here, 0.0, at[2] - 0.25),
            ],
            axis=1,
        )
        slopes[:, 2] *= 2
        scatter = max(LEAST_NOISE_K, 1.4826 * float(np.median(np.abs(rest - np.median(rest)))))
        weights = np.minimum(1.0, FAR_OFF * scatter / np.maximum(np.abs(rest), 1e-9))
        known = (slopes * weights[:, None]).T @ slopes / scatter**2 + _PRIOR
        move = np.linalg.pinv(known) @ (slopes.T @ (weights * rest) / scatter**2 - _PRIOR @ at)
        move *= min(1.0, 0.7 / max(abs(float(move[0])), 1e-12))
        at = at + move
        at[0] = min(max(at[0], math.log(LEAST_W)), math.log(MOST_W))
        if abs(float(move[0])) < 1e-4:
            break
    spread = math.sqrt(float((weights * rest**2).sum()) / max(len(rest) - 3, 1))
    scatter = max(LEAST_NOISE_K, scatter, spread)
    # Readings that err alike for a while tell less than as many that err by themselves.
    alike = float(np.corrcoef(rest[1:], rest[:-1])[0, 1]) if np.ptp(rest) > 1e-9 else 0.0
    alike = min(max(alike, 0.0), 0.8)
    known = (slopes * weights[:, None]).T @ slopes / (scatter**2 * (1 + alike) / (1 - alike))
    return at, scatter, np.asarray(np.linalg.pinv(known + _PRIOR), dtype=np.float64), weights
