"""A pile of slabs that heat goes through: its lines, its grids and what lies where."""

import math

import numpy as np

from aplomb.core.cold.course import Air, Body, Phase, Slab
from aplomb.core.cold.material import Curves, Floats

SLAB_NODES, BOX_NODES, SIDE_NODES, BENCH_NODES = 41, 25, 12, 24
"""Points across the thickness of a slab and of a box, from the middle of a box to its side, and
across a bench [-]."""


class BandedLines:
    """Bands of (1 - γh·A) along the first axis, made ready to be solved more than once."""

    def __init__(self, below: Floats, middle: Floats, above: Floats) -> None:
        """Take the band below, on and above the diagonal, each of shape (n, lines)."""
        self.many = middle.shape[1] > 1
        if self.many:
            self._factor_arrays(below, middle, above)
        else:
            self._factor_lists(below, middle, above)

    def _factor_lists(self, below: Floats, middle: Floats, above: Floats) -> None:
        self.low = low = below[:, 0].tolist()
        main, up = middle[:, 0].tolist(), above[:, 0].tolist()
        before = 0.0
        over: list[float] = []
        ahead: list[float] = []
        self.over, self.ahead = over, ahead
        for a, b, c in zip(low, main, up, strict=True):
            inverse = 1.0 / (b - a * before)
            before = c * inverse
            over.append(inverse)
            ahead.append(before)

    def _factor_arrays(self, below: Floats, middle: Floats, above: Floats) -> None:
        self.lows, self.overs, self.aheads = below, np.empty_like(middle), np.empty_like(middle)
        before = np.zeros(middle.shape[1])
        for i in range(len(middle)):
            inverse = 1.0 / (middle[i] - below[i] * before)
            before = above[i] * inverse
            self.overs[i], self.aheads[i] = inverse, before

    def solve(self, right: Floats) -> Floats:
        """Solve for a right side of shape (n, lines)."""
        if not self.many:
            return np.array(self._solved(right[:, 0].tolist()))[:, None]
        found = np.empty_like(right)
        before = np.zeros(right.shape[1])
        for i in range(len(right)):
            before = (right[i] - self.lows[i] * before) * self.overs[i]
            found[i] = before
        for i in range(len(right) - 2, -1, -1):
            found[i] -= self.aheads[i] * found[i + 1]
        return found

    def _solved(self, right: list[float]) -> list[float]:
        before = 0.0
        found = []
        for r, a, m in zip(right, self.low, self.over, strict=True):
            before = (r - a * before) * m
            found.append(before)
        for i in range(len(found) - 2, -1, -1):
            before = found[i] - self.ahead[i] * before
            found[i] = before
        return found


class _Grid:
    """Points along one direction: where they lie, and the width of the cell round each [m]."""

    def __init__(self, at: Floats) -> None:
        self.at = at
        self.apart = np.diff(at)
        self.width = np.empty(len(at))
        self.width[0], self.width[-1] = self.apart[0] / 2, self.apart[-1] / 2
        self.width[1:-1] = (self.apart[1:] + self.apart[:-1]) / 2


def _across(thickness_mm: float, nodes: int) -> _Grid:
    return _Grid(np.linspace(0.0, thickness_mm / 1000, nodes))


def _to_side(side_mm: float, thickness_mm: float, nodes: int) -> _Grid:
    """Points from the middle of a box to its side, closer to one another at the side."""
    half = side_mm / 2000
    first = 16 * side_mm / 2 / thickness_mm
    power = min(3.0, max(1.0, math.log(first) / math.log(nodes - 1))) if first > 1 else 1.0
    return _Grid(half - half * np.linspace(1.0, 0.0, nodes) ** power)


def _bench_grid(bench: Slab) -> _Grid:
    """Points from the face of a bench that the block touches into it."""
    depth = bench.thickness_mm / 1000
    first = min(2e-4, depth / BENCH_NODES)
    power = max(1.0, math.log(depth / first) / math.log(BENCH_NODES - 1))
    return _Grid(depth * np.linspace(0.0, 1.0, BENCH_NODES) ** power)


class Pile:
    """Bench, block and bench as one chain of rows, in one phase; `columns` lie side by side."""

    def __init__(
        self, body: Body, known: Curves, phase: Phase, nodes: int, side_nodes: int = SIDE_NODES
    ) -> None:
        self.known = known
        self.slope = np.diff(known.temp_c) / np.diff(known.enthalpy)
        self.bend = np.diff(known.conductivity) / np.diff(known.temp_c)
        self.depth = _across(body.thickness_mm, nodes)
        self.sides: tuple[_Grid, ...] = ()
        if body.is_box:
            self.sides = tuple(
                _to_side(side, body.thickness_mm, side_nodes)
                for side in (body.width_mm, body.length_mm)
            )
        self.shape = (nodes, *(len(grid.at) for grid in self.sides))
        self.columns = math.prod(self.shape[1:])
        self.side = phase.sides or Air(0.0, 0.0)
        areas = [grid.width for grid in self.sides]
        self.area = np.outer(*areas).ravel() if areas else np.ones(1)
        top, bottom = phase.above, phase.below
        self.first = BENCH_NODES if isinstance(top, Slab) else 0
        self.last = self.first + nodes
        ends: list[Air] = []
        widths, links = [self.depth.width], [np.zeros(nodes - 1)]
        heat, starts = [np.ones(nodes)], []
        for face, upper in ((top, True), (bottom, False)):
            if isinstance(face, Air):
                ends.append(face)
                continue
            grid = _bench_grid(face)
            way = slice(None, None, -1) if upper else slice(None)
            inner = face.conductivity_w_m_k / grid.apart[way]
            joint = np.array([face.contact_w_m2_k])
            per_k = 1000 * face.density_kg_m3 * face.heat_capacity_kj_kg_k
            for kept, more in (
                (widths, grid.width[way]),
                (links, np.concatenate((inner, joint) if upper else (joint, inner))),
                (heat, np.full(BENCH_NODES, per_k)),
            ):
                kept.insert(0 if upper else len(kept), more)
            starts.append(face.start_c * per_k)
            ends.append(face.far or Air(0.0, 0.0))
        self.ends = ends
        self.width = np.concatenate(widths)[:, None]
        self.links = np.concatenate(links)[:, None]
        self.bench_heat = np.concatenate(heat)[:, None]
        self.has_bench = bool(starts)
        self.starts = starts
        self.is_block = np.zeros((len(self.width), 1), dtype=bool)
        self.is_block[self.first : self.last] = True
        air = np.zeros((len(self.width), 1))
        air[0], air[-1] = ends[0].w_m2_k, ends[-1].w_m2_k
        self.air = air
        self.air_c = np.zeros_like(air)
        self.air_c[0], self.air_c[-1] = ends[0].temp_c, ends[-1].temp_c

    def begin(self, block: Floats) -> Floats:
        """Rows of enthalpy [J/m³] with the benches as they are when the block is laid on them."""
        rows = np.empty((len(self.width), self.columns))
        starts = list(self.starts)
        if self.first:
            rows[: self.first] = starts.pop(0)
        if self.last < len(rows):
            rows[self.last :] = starts.pop(0)
        rows[self.first : self.last] = block
        return rows

    def read(self, rows: Floats) -> tuple[Floats, Floats, Floats]:
        """Temperature, its change with enthalpy, and conductivity of each cell."""
        known = self.known
        block = rows[self.first : self.last]
        i = np.searchsorted(known.enthalpy, block)
        np.clip(i, 1, len(known.enthalpy) - 1, out=i)
        i -= 1
        slope = self.slope[i]
        over = slope * (block - known.enthalpy[i])
        temp = known.temp_c[i] + over
        carried = known.conductivity[i] + self.bend[i] * over
        if self.has_bench:
            temps, slopes = rows / self.bench_heat, np.broadcast_to(1 / self.bench_heat, rows.shape)
            slopes = slopes.copy()
            temps[self.first : self.last] = temp
            slopes[self.first : self.last] = slope
            return temps, slopes, carried
        return temp, slope, carried

    def down(self, carried: Floats) -> Floats:
        """What links each row with the next one below it [W/(m²·K)]."""
        inner = 0.5 * (carried[1:] + carried[:-1]) / self.depth.apart[:, None]
        if not self.has_bench:
            return inner
        links = np.repeat(self.links, self.columns, axis=1)
        links[self.first : self.last - 1] = inner
        return links

    def across(self, carried: Floats, axis: int) -> Floats:
        """What links each cell with the next one towards the side [W/(m²·K)], side axis first."""
        cube = np.moveaxis(carried.reshape(self.shape), axis, 0)
        apart = self.sides[axis - 1].apart.reshape(-1, 1, 1)
        return np.asarray(0.5 * (cube[1:] + cube[:-1]) / apart)
