"""Heat through a slab between air and air: the same method as `conduction`, for one column only.

A day of a block is asked for at every change of a formula, so this is written for speed: the state
is one array, and each step solves two bands of numbers as plain lists.
"""

import math

import numpy as np
from msgspec import Struct

from aplomb.core.cold.material import Curves, Floats

GAMMA = 1 - 1 / math.sqrt(2)
"""Of the two-stage Rosenbrock method: with it fast changes die out [-]."""
FINE = 4096
"""Equal steps of enthalpy that the curves of a material are read by [-]."""


class Went(Struct, frozen=True):
    """How a column went through one place.

    Attributes
    ----------
    heat : array of shape (nodes,)
        Enthalpy at the end [J/m³].
    seconds : list of float
        Of the steps' ends, from 0 [s].
    temps : list of array of shape (nodes,)
        Temperatures then [°C].
    taken, exchanged : float
        Heat that came in through both faces, and what went either way [J/m²].
    """

    heat: Floats
    seconds: list[float]
    temps: list[Floats]
    taken: float
    exchanged: float


class OneColumn:
    """One column of a slab, read over equal steps of enthalpy so that a value is found at once."""

    def __init__(self, known: Curves, thickness_m: float, nodes: int) -> None:
        heat = np.linspace(float(known.enthalpy[0]), float(known.enthalpy[-1]), FINE + 1)
        temp = np.interp(heat, known.enthalpy, known.temp_c)
        # Both curves are read at once, as the two parts of one complex number.
        both = temp + 1j * np.interp(temp, known.temp_c, known.conductivity)
        self.values, self.steps = both[:-1].copy(), np.diff(both)
        self.base, self.per = float(heat[0]), FINE / float(heat[-1] - heat[0])
        apart = thickness_m / (nodes - 1)
        self.per_cell = np.full(nodes, 1 / apart)
        self.per_cell[0] = self.per_cell[-1] = 2 / apart
        self.half = 0.5 / apart

    def _flows(
        self, heat: Floats, top: tuple[float, float], bottom: tuple[float, float]
    ) -> tuple[Floats, Floats, Floats, Floats, float, float]:
        """Temperature, its slope, links, rate of change, and heat from above and below [W/m²]."""
        x = (heat - self.base) * self.per
        i = x.astype(np.intp)
        more = self.steps.take(i, mode="clip")
        both = self.values.take(i, mode="clip") + (x - i) * more
        temp, carried = both.real, both.imag
        links = (carried[1:] + carried[:-1]) * self.half
        from_top = top[1] * (top[0] - temp.item(0))
        from_bottom = bottom[1] * (bottom[0] - temp.item(-1))
        up = np.empty(len(temp) + 1)
        up[0], up[-1] = -from_top, from_bottom
        np.multiply(links, temp[1:] - temp[:-1], out=up[1:-1])
        rate = (up[1:] - up[:-1]) * self.per_cell
        return temp, more.real * self.per, links, rate, from_top, from_bottom

    def _bands(
        self, slope: Floats, links: Floats, reach: float, h_top: float, h_bottom: float
    ) -> tuple[list[float], list[float], list[float]]:
        """Bands below, on and above the diagonal of 1 - γh·A."""
        scale = -reach * self.per_cell
        out = np.empty(len(slope) + 1)
        out[0], out[1:-1], out[-1] = h_top, links, h_bottom
        middle = 1 - scale * (out[1:] + out[:-1]) * slope
        below = (scale[1:] * links * slope[:-1]).tolist()
        above = (scale[:-1] * links * slope[1:]).tolist()
        below.insert(0, 0.0)
        above.append(0.0)
        return below, middle.tolist(), above

    def march(
        self,
        heat: Floats,
        for_s: float,
        top: tuple[float, float],
        bottom: tuple[float, float],
        tolerance_k: float,
        first_s: float,
        longest_s: float,
        most: int,
    ) -> Went | None:
        """Go on for some seconds between two airs: temperature [°C] and coefficient [W/(m²·K)].

        None when it takes more than the most steps.
        """
        done, reach = 0.0, min(first_s, for_s)
        temp, slope, links, rate, q_top, q_bottom = self._flows(heat, top, bottom)
        seconds, temps = [0.0], [temp]
        taken = exchanged = 0.0
        for _ in range(most):
            left = for_s - done
            if left <= for_s * 1e-12:
                return Went(heat, seconds, temps, taken, exchanged)
            step = left if left <= reach else left / 2 if left < 1.5 * reach else reach
            bend = GAMMA * step
            below, middle, above = self._bands(slope, links, bend, top[1], bottom[1])
            solved, over, ahead = _first(below, middle, above, rate.tolist())
            one = np.array(solved)
            _, _, _, rate2, top2, bottom2 = self._flows(heat + step * one, top, bottom)
            two = np.array(_again(below, over, ahead, (rate2 - 2 * one).tolist()))
            both = one + two
            change = (0.5 * step) * both
            wrong = float(np.abs(change * slope).max())
            if wrong > 1.2 * tolerance_k and step > 1e-4:
                reach = step * max(0.2, 0.8 * math.sqrt(tolerance_k / wrong))
                continue
            # The heat of the two stages, as the method adds them up.
            lag_top = top[1] * bend * float(slope[0]) * float(both[0])
            lag_bottom = bottom[1] * bend * float(slope[-1]) * float(both[-1])
            in_top = 0.5 * step * (q_top + top2 - lag_top)
            in_bottom = 0.5 * step * (q_bottom + bottom2 - lag_bottom)
            taken += in_top + in_bottom
            exchanged += abs(in_top) + abs(in_bottom)
            heat = heat + step * one + change
            done += step
            temp, slope, links, rate, q_top, q_bottom = self._flows(heat, top, bottom)
            seconds.append(done)
            temps.append(temp)
            grown = 0.85 * math.sqrt(tolerance_k / max(wrong, 1e-9))
            reach = min(longest_s, step * min(4.0, max(0.3, grown)))
        return None


def _first(
    below: list[float], middle: list[float], above: list[float], right: list[float]
) -> tuple[list[float], list[float], list[float]]:
    """Solve three bands; gives what is needed to solve them again too."""
    over: list[float] = []
    ahead: list[float] = []
    found: list[float] = []
    c = y = 0.0
    for a, b, up, r in zip(below, middle, above, right, strict=False):
        m = 1.0 / (b - a * c)
        y = (r - a * y) * m
        c = up * m
        over.append(m)
        ahead.append(c)
        found.append(y)
    return _back(found, ahead), over, ahead


def _again(
    below: list[float], over: list[float], ahead: list[float], right: list[float]
) -> list[float]:
    found: list[float] = []
    y = 0.0
    for a, m, r in zip(below, over, right, strict=False):
        y = (r - a * y) * m
        found.append(y)
    return _back(found, ahead)


def _back(found: list[float], ahead: list[float]) -> list[float]:
    """Turn back, in place."""
    x = 0.0
    i = len(found)
    for c in reversed(ahead):
        i -= 1
        found[i] = x = found[i] - c * x
    return found
