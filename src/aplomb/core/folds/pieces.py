"""The section of paste with its fat in pieces: every pixel carried back through the folds.

A roll stretches and thins everything alike, and a fold lays panels on one another, so a point of
the finished block can be followed back to where it lay in the gathered mass. In a vertical cut
along the last rolling direction the two horizontal coordinates are linear along each row of
pixels, so only one offset and one slope a row have to be carried.
"""

import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aplomb.core.errors import AplombError
from aplomb.core.folds.counts import panel_order
from aplomb.core.folds.plan import Plan, Step, Way

CUT_AT, CUT_SLOPE = 0.21, 0.37
"""Where the cut runs across the width, as a share at the left and its change to the right [-]: a
little askew, so that no cut lies along a row of pieces."""


POINTS_AT_ONCE = 24_000
"""Points that are carried back together: few enough to stay in the processor's cache."""


class Mass(Struct, frozen=True):
    """The gathered mass before the first turn.

    Attributes
    ----------
    fat_share : float
        Volume share of the pieces [-], above 0 and below 0.95.
    height_mm, length_mm : float
        Height, and length and width alike [mm].
    piece_mm : float
        Edge of a cube of fat [mm].
    seed : int
        Of the places of the cubes.
    """

    fat_share: float
    height_mm: float
    length_mm: float
    piece_mm: float
    seed: int = 7


class Window(Struct, frozen=True):
    """Part of a section, as shares of its length (from the left) and height (from the bottom)."""

    left: float = 0.0
    right: float = 1.0
    bottom: float = 0.0
    top: float = 1.0


def _carried_back(
    plan: Plan, z: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Follow rows of a section back to the gathered mass.

    Returns
    -------
    x, y : ndarray, shape (2, n)
        Offset and slope of each row's coordinates, in shares of the mass [-].
    z : ndarray, shape (n,)
        Height of each row in the mass, as a share [-].
    """
    x = np.stack([np.zeros_like(z), np.ones_like(z)])
    y = np.stack([np.full_like(z, CUT_AT), np.full_like(z, CUT_SLOPE)])
    for step in reversed(plan.turns):
        if step.way is Way.QUARTER:
            halves = (Step(Way.FOLD, 2), Step(Way.FOLD, 2))
            for half in halves:
                x, z = _unfolded(half, x, z)
                x, y = y, x
            continue
        if step.way not in (Way.FOLD, Way.STACK):
            raise AplombError(f"a section through “{step.way.value}” cannot be worked out yet")
        x, z = _unfolded(step, x, z)
        x, y = y, x
    return x, y, z


def _unfolded(
    step: Step, x: NDArray[np.float64], z: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    n = step.panels
    order = panel_order(step)
    place = np.clip(np.floor(z * n).astype(int), 0, n - 1)
    panel = np.array([p for p, _ in order])[place]
    over = np.array([turned for _, turned in order])[place]
    within = z * n - place
    mirrored = np.stack([1 - x[0], -x[1]]) if step.way is not Way.STACK else x
    x = np.where(over, mirrored, x)
    return np.stack([(panel + x[0]) / n, x[1] / n]), np.where(over, 1 - within, within)


def section(
    plan: Plan, mass: Mass, rows: int, columns: int, window: Window | None = None
) -> NDArray[np.bool_]:
    """Cut through the block after the last step of a plan.

    Parameters
    ----------
    plan : Plan
        Its enclosure does not matter.
    mass : Mass
    rows, columns : int
        Pixels from top to bottom and from left to right.
    window : Window or None
        Part of the section; None for all of it.

    Returns
    -------
    ndarray of bool, shape (rows, columns)
        True where there is fat; the first row is the top. The same for the same seed.

    Raises
    ------
    AplombError
        For a share or size that cannot be used, or a step that cannot be worked yet.

    Notes
    -----
    Cubes stand above one another in columns, wholly inside the mass, at random heights; every
    column has its place at random in its cell, and every row of cells a random phase. They never
    overlap, and a vertical line crosses `fat_share` × height / piece of them on average.
    """
    if not 0 < mass.fat_share < 0.95 or min(mass.height_mm, mass.length_mm, mass.piece_mm) <= 0:
        raise AplombError("a mass with pieces needs sizes above 0 and a fat share of 0 to 0.95")
    window = window or Window()
    z = window.top - (window.top - window.bottom) * (np.arange(rows) + 0.5) / rows
    u = window.left + (window.right - window.left) * (np.arange(columns) + 0.5) / columns
    x, y, z = _carried_back(plan, z)
    layers, high, wide = _lattice(mass)
    across = max(1, round(mass.length_mm / mass.piece_mm * wide))
    random = np.random.default_rng(mass.seed)
    free = np.sort(random.random((layers, across * across)), axis=0) * (1 - layers * high)
    bottoms = (free + np.arange(layers)[:, None] * high).astype("f4")
    corners = (random.random((2, across * across)) * (1 - wide)).astype("f4")
    row_phase = random.random(across).astype("f4")
    start = np.float32(random.random())
    line, height = u.astype("f4"), z.astype("f4")[:, None]
    cut = np.empty((rows, columns), bool)
    at_once = max(1, POINTS_AT_ONCE // columns)
    for first in range(0, rows, at_once):
        part = slice(first, first + at_once)
        yi, yf = _cell(_along(y[:, part], line, across) + start, across)
        xi, xf = _cell(_along(x[:, part], line, across) + row_phase.take(yi), across)
        column = xi * across + yi
        inside = _within(xf, corners[0].take(column), wide)
        inside &= _within(yf, corners[1].take(column), wide)
        in_layer = np.zeros_like(inside)
        for bottom in bottoms:
            in_layer |= _within(height[part], bottom.take(column), high)
        np.logical_and(inside, in_layer, out=cut[part])
    return cut


def _lattice(mass: Mass) -> tuple[int, float, float]:
    """Layers of pieces, their height over the mass's, and their width over a cell's [-]."""
    high = min(1.0, mass.piece_mm / mass.height_mm)
    cell = mass.piece_mm / mass.fat_share ** (1 / 3)
    layers = max(
        math.floor(mass.height_mm / cell + 0.35), math.ceil(mass.fat_share / high - 1e-9), 1
    )
    if layers * high > 1:
        layers = max(1, math.floor(1 / high))
        high = max(high, min(1 / layers, mass.fat_share / layers))
    return layers, high, min(1.0, math.sqrt(mass.fat_share / (layers * high)))


Floats = NDArray[np.float32]
Places = NDArray[np.intp]


def _along(linear: NDArray[np.float64], line: Floats, cells: int) -> Floats:
    """Evaluate offset + slope × place on every row, counted in cells."""
    offset, slope = (linear * cells).astype("f4")
    return np.asarray(offset[:, None] + slope[:, None] * line)


def _cell(scaled: Floats, cells: int) -> tuple[Places, Floats]:
    """Find the cell of each place, and the place within it; the lattice goes on round the edges."""
    index = np.floor(scaled)
    within = scaled - index
    cell = index.astype(np.intp)
    cell[cell >= cells] -= cells
    return cell, within


def _within(place: Floats, corner: Floats, size: float) -> NDArray[np.bool_]:
    """Tell whether a place lies within the piece that begins at a corner."""
    off = place - corner
    return np.asarray((off >= 0) & (off <= np.float32(size)))


def leaves_along(cut: NDArray[np.bool_]) -> NDArray[np.intp]:
    """Count fat leaves along every vertical of a section.

    Parameters
    ----------
    cut : ndarray of bool, shape (rows, columns)

    Returns
    -------
    ndarray of int, shape (columns,)
    """
    first = cut[:1].astype(np.intp)
    begins = (cut[1:] & ~cut[:-1]).sum(axis=0)
    return np.asarray(first.sum(axis=0) + begins)
