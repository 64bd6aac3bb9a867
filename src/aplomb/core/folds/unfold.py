"""One fold, backwards: from points of the folded block to where they lay in the rolled sheet.

Lengths are shares: x and z of the block go from 0 to 1, and so do they in the sheet. A fold is a
list of runs, the sheet's stretches in their order, each on one level of the block; between two
runs the sheet bends.
"""

from itertools import pairwise

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aplomb.core.folds.counts import panel_order, panels_of
from aplomb.core.folds.step import SEAM_AT, Step, Way

Floats = NDArray[np.float32]

COLUMNS = 512
"""Columns in which a block of uneven height is looked up."""

FINE = 2048
"""Steps in which places along an uneven block are looked up."""

ENTRY = 0.3
"""Share of a bend's length, at either end of it, in which the leaves pass from their thickness in
the flat to that in the bend, where those inside are thick and those outside stretched thin."""

NEAR_END = 0.2
"""A run that ends this near the block's end lies in the bends there [-]; a seam does not."""

TOP = np.float32(1 - 2**-20)
"""Just under the top of a sheet: a point there lies in its highest leaf."""


class Run(Struct, frozen=True):
    """A stretch of the sheet on one level of the block, from one place along it to another."""

    level: int
    start: float
    end: float


class Bend(Struct, frozen=True):
    """Where the sheet goes round from one run to the next: which end of the block, and levels."""

    right: bool
    first: int
    last: int

    @property
    def low(self) -> int:
        """Its lower level."""
        return min(self.first, self.last)

    @property
    def levels(self) -> int:
        """Levels from its lower to its upper, both counted."""
        return abs(self.last - self.first) + 1

    @property
    def hollow(self) -> float:
        """Share of its height that lies within it [-]."""
        return (self.levels - 2) / self.levels

    def goes_round(self, other: "Bend") -> bool:
        """True when it lies at the same end and holds all levels of another, or is that one."""
        top, other_top = self.low + self.levels, other.low + other.levels
        return self.right is other.right and self.low <= other.low and top >= other_top


def runs_of(step: Step, short: float = 0.0) -> tuple[Run, ...]:
    """List the runs of a fold, in the order of the sheet.

    Parameters
    ----------
    step : Step
        A fold or a portion, not a cut and stack.
    short : float
        What each flap falls short, over the block's length [-].
    """
    if step.off_centre:
        runs = [Run(1, SEAM_AT, 0), Run(0, 0, 1), Run(3, 1, 0), Run(2, 0, 1), Run(1, 1, SEAM_AT)]
    else:
        by_panel = {
            panel: (level, turned) for level, (panel, turned) in enumerate(panel_order(step))
        }
        runs = [
            Run(by_panel[i][0], float(by_panel[i][1]), float(not by_panel[i][1]))
            for i in range(step.panels)
        ]
    first, last = runs[0], runs[-1]
    if first.level:
        way = 1 if first.end > first.start else -1
        runs[0] = Run(first.level, first.start + way * short, first.end)
    if last.level:
        way = 1 if last.end > last.start else -1
        runs[-1] = Run(last.level, last.start, last.end - way * short)
    return tuple(runs)


def bends_of(runs: tuple[Run, ...]) -> tuple[Bend, ...]:
    """List the bends between the runs of a fold, in the order of the sheet."""
    return tuple(Bend(one.end > 0.5, one.level, other.level) for one, other in pairwise(runs))


Zone = tuple[Bend, float, float, float]
"""A bend, how far from the block's end it begins, the length of its zone, and where along the
sheet it begins [-]."""


class Fold:
    """A fold, ready to be carried back.

    Parameters
    ----------
    step : Step
        A fold, portion, or cut and stack.
    bend : float
        Length of a bend round two levels over the block's length [-]; 0 for sharp creases.
    short : float
        What each flap falls short, over the block's length [-].
    uneven : float
        How much thinner the sheet's ends are than its mean [-].
    spread : tuple of (kind, height, everywhere)
        What is spread on the sheet before it is folded, from below: its height over the sheet's
        own mean where it lies [-], and whether on all panels or only on those that are covered.
    border : tuple of float
        Border at the sheet's ends and at its sides without what is spread [-].
    """

    def __init__(
        self,
        step: Step,
        bend: float = 0.0,
        short: float = 0.0,
        uneven: float = 0.0,
        spread: tuple[tuple[int, float, bool], ...] = (),
        border: tuple[float, float] = (0.0, 0.0),
    ) -> None:
        self._n, self._uneven, self._spread, self._border = step.panels, uneven, spread, border
        self._bend = bend
        if step.way is Way.STACK:
            self._runs = tuple(Run(i, 0.0, 1.0) for i in range(step.panels))
        else:
            self._runs = runs_of(step, short)
        order = panel_order(step)
        self._turned = np.array([turned for _, turned in order])
        self._from = self._turned.astype("f4")
        self._way = (1 - 2 * self._from).astype("f4")
        self._covered = np.array([covered for covered, _ in panels_of(step)])
        self._bends = () if step.way is Way.STACK else bends_of(self._runs)
        self._lay_along()
        self._table()

    @property
    def straight(self) -> bool:
        """True when points of one height in the block come from one height, evenly in x."""
        return not self._zones and self._edges is None

    def _width(self, bend: Bend) -> float:
        """Length that the zone of a bend takes, over the block's length [-]."""
        return self._bend * bend.levels / 2

    def _begins(self, bend: Bend) -> float:
        """How far from the block's end a bend begins: with the outermost that goes round it."""
        return max(self._width(each) for each in self._bends if each.goes_round(bend))

    def _held_back(self, run: Run, where: float, *, free: bool) -> float:
        """How far from the place it would end at a run stops because of the bends there."""
        off = abs(where - round(where))
        if not self._bend or off >= NEAR_END:
            return 0.0
        here = [bend for bend in self._bends if bend.right is (where > 0.5)]
        if free:
            outer = [b for b in here if b.low < run.level < b.low + b.levels - 1]
            within = [self._width(bend) * (1 - bend.hollow) for bend in outer]
            return max(0.0, max(within, default=0.0) - off)
        return max(self._begins(b) for b in here if run.level in (b.first, b.last))

    def _lay_along(self) -> None:
        """Find where each run and bend begins along the sheet."""
        self._zones: list[Zone] = []
        at = 0.0
        offsets, slopes = [], []
        last = len(self._runs) - 1
        for i, run in enumerate(self._runs):
            way = 1.0 if run.end > run.start else -1.0
            first_cut = self._held_back(run, run.start, free=i == 0 or not self._bends)
            last_cut = self._held_back(run, run.end, free=i == last or not self._bends)
            offsets.append(at - way * (run.start + way * first_cut))
            slopes.append(way)
            at += max(0.0, abs(run.end - run.start) - first_cut - last_cut)
            if self._bend and i < len(self._bends):
                bend = self._bends[i]
                self._zones.append((bend, self._begins(bend), self._width(bend), at))
                at += self._width(bend) * bend.levels * (1 - bend.hollow**2)
        self._total = at
        self._offset = np.array(offsets, "f4") / np.float32(at)
        self._slope = np.array(slopes, "f4") / np.float32(at)

    def _table(self) -> None:
        """Tabulate level heights along the block where they are not all alike."""
        n = self._n
        plain = len(self._runs) == n and all(
            {run.start, run.end} == {0.0, 1.0} for run in self._runs
        )
        layers = sum(height for _, height, _ in self._spread)
        by_level = sorted(range(len(self._runs)), key=lambda i: self._runs[i].level)
        self._level_offset, self._level_slope = self._offset[by_level], self._slope[by_level]
        self._edges: Floats | None = None
        if plain and not self._uneven and not layers:
            return
        x = (np.arange(COLUMNS) + 0.5) / COLUMNS
        high = np.zeros((n, COLUMNS))
        run_at = np.zeros((n, COLUMNS), np.intp)
        for i, run in enumerate(self._runs):
            low, top = sorted((run.start, run.end))
            there = (x >= low) & (x <= top)
            along = np.clip(self._offset[i] + self._slope[i] * x[there], 0, 1)
            spread = sum(
                height
                for _, height, everywhere in self._spread
                if everywhere or self._covered[run.level]
            )
            high[run.level, there] = profile(along, self._uneven) + spread
            run_at[run.level, there] = i
        total = high.sum(axis=0)
        grown = np.concatenate([[0.0], np.cumsum(total)])
        even = np.linspace(0, 1, FINE + 1)
        at = np.interp(even, grown / grown[-1], np.linspace(0, 1, COLUMNS + 1))
        self._from_flat = at.astype("f4")
        self._flat_slope = np.diff(at, append=1.0).astype("f4")
        edges = np.cumsum(high, axis=0) / total
        self._edges = edges.astype("f4")
        self._lows = (edges - high / total).astype("f4").reshape(-1)
        there = high > 0
        self._per_height = np.where(there, total / np.where(there, high, 1), 0).astype("f4")
        self._per_height = self._per_height.reshape(-1)
        self._run_at = run_at.reshape(-1)

    def back(self, x: Floats, y: Floats, z: Floats, kind: NDArray[np.uint8], none: int) -> None:
        """Carry points of the block back to the sheet, in place.

        Parameters
        ----------
        x, y, z : ndarray of float32, shape (n,)
            Places in the block; x and z are changed to those in the sheet before it was folded and
            before anything was spread on it. y is only read.
        kind : ndarray of uint8, shape (n,)
            What was spread is noted here where it is still `none`.
        """
        n = self._n
        if self._edges is None:
            within = z * np.float32(n)
            whole = np.floor(within)
            within -= whole
            level = whole.astype(np.intp)
            run_offset, run_slope = self._level_offset, self._level_slope
            run, ideal_x = level, x
        else:
            flat_x = x * np.float32(FINE)
            place = flat_x.astype(np.intp)
            ideal_x = self._from_flat.take(place, mode="clip")
            ideal_x += (flat_x - place) * self._flat_slope.take(place, mode="clip")
            ideal_x = ideal_x.astype("f4")
            column = np.minimum((ideal_x * COLUMNS).astype(np.intp), COLUMNS - 1)
            level = np.zeros(x.shape, np.intp)
            for edge in self._edges[:-1]:
                level += z >= edge.take(column, mode="clip")
            flat = level * COLUMNS
            flat += column
            within = z - self._lows.take(flat, mode="clip")
            within *= self._per_height.take(flat, mode="clip")
            run = self._run_at.take(flat, mode="clip")
            run_offset, run_slope = self._offset, self._slope
        along: Floats = run_slope.take(run, mode="clip")
        along *= ideal_x
        along += run_offset.take(run, mode="clip")
        depth: Floats = self._way.take(level, mode="clip")
        depth *= within
        depth += self._from.take(level, mode="clip")
        if self._zones:
            self._round_bends(ideal_x, level, within, along, depth)
        if self._spread:
            self._lift_spread(level, along, y, depth, kind, none)
        if self._uneven:
            along = gathered(along, self._uneven)
        np.clip(along, 0, TOP, out=x)
        np.clip(depth, 0, TOP, out=z)

    def _round_bends(
        self, x: Floats, level: NDArray[np.intp], within: Floats, along: Floats, depth: Floats
    ) -> None:
        """Put the points that lie in a bend where they came from."""
        for right in (False, True):
            zones = [zone for zone in self._zones if zone[0].right is right]
            if zones:
                from_end = 1 - x if right else x
                near = np.flatnonzero(from_end < np.float32(max(zone[1] for zone in zones)))
                for zone in zones:
                    self._round_bend(zone, near, from_end, level, within, along, depth)

    def _round_bend(
        self,
        zone: Zone,
        near: NDArray[np.intp],
        x_from_end: Floats,
        level: NDArray[np.intp],
        within: Floats,
        along: Floats,
        depth: Floats,
    ) -> None:
        """Put those of some points that lie in one bend where they came from."""
        bend, start, width, begins = zone
        over = level[near] - bend.low
        from_end = x_from_end[near]
        kept = np.flatnonzero((from_end < np.float32(start)) & (over >= 0) & (over < bend.levels))
        if not len(kept):
            return
        some = near[kept]
        half = np.float32(bend.levels / 2)
        u = (np.float32(start) - from_end[kept]) / np.float32(width)
        v = (over[kept].astype("f4") + within[some] - half) / half
        ring = np.maximum(u, np.abs(v))
        inside = np.flatnonzero((ring >= np.float32(bend.hollow)) & (ring <= 1))
        if not len(inside):
            return
        u, v, ring = u[inside], v[inside], np.maximum(ring[inside], np.float32(1e-6))
        round_ = np.where(
            u >= np.abs(v),
            (2 * ring + v) / (4 * ring),
            np.where(v < 0, u / (4 * ring), 1 - u / (4 * ring)),
        )
        hollow, area = np.float32(bend.hollow), np.float32(1 - bend.hollow**2)
        share = round_ if bend.last > bend.first else 1 - round_
        flat = (ring - hollow) / (1 - hollow)
        bent = (ring * ring - hollow * hollow) / area
        in_bend = np.minimum(1, np.minimum(round_, 1 - round_) / np.float32(ENTRY))
        out = flat + in_bend * (bent - flat)
        at = some[inside]
        length = np.float32(width * bend.levels) * area
        along[at] = (np.float32(begins) + share * length) / np.float32(self._total)
        depth[at] = out if self._turned[bend.low] else 1 - out

    def _lift_spread(
        self,
        level: NDArray[np.intp],
        along: Floats,
        y: Floats,
        depth: Floats,
        kind: NDArray[np.uint8],
        none: int,
    ) -> None:
        """Take off what was spread, noting the points that lie in it."""
        ends, sides = self._border
        free = (along >= ends) & (y >= sides) & (y <= 1 - sides)
        covered = self._covered.take(level)
        whole = np.ones_like(depth)
        for _, height, everywhere in self._spread:
            whole += np.float32(height) if everywhere else np.float32(height) * covered
        at = depth * whole
        low = np.ones_like(depth)
        for what, height, everywhere in self._spread:
            there = np.ones_like(covered) if everywhere else covered
            top: Floats = (low + np.float32(height) * there).astype("f4")
            inside = (at >= low) & (at < top) & there & free & (kind == none)
            kind[inside] = what
            low = top
        np.copyto(depth, np.minimum(at, 1), where=free)


def profile(along: NDArray[np.floating], uneven: float) -> NDArray[np.floating]:
    """Thickness of a sheet over its mean, thinner by `uneven` at its ends [-].

    Notes
    -----
    h(s) = 1 + e (1/2 - 3/2 (2s - 1)²), with s along the sheet: a parabola of mean 1, 1 + e/2 in
    the middle and 1 - e at both ends. That a pin thins the ends is common practice; the form is a
    choice.
    """
    return np.asarray(1 + uneven * (0.5 - 1.5 * (2 * along - 1) ** 2))


def gathered(along: Floats, uneven: float) -> Floats:
    """Share of the sheet's volume up to a place along it [-]: the integral of `profile`.

    Notes
    -----
    ∫ h ds = s + e (s/2 - ((2s - 1)³ + 1) / 4), which is 1 at s = 1.
    """
    e = np.float32(uneven)
    return np.asarray(along + e * (0.5 * along - 0.25 * ((2 * along - 1) ** 3 + 1)), "f4")
