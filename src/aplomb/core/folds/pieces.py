"""Fat in pieces: where the cubes, flakes, crumbs or gratings lie in the gathered mass."""

import math
from functools import lru_cache

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aplomb.core.errors import AplombError
from aplomb.core.folds.pieces_form import FORMS, Form, spread_of


class Mass(Struct, frozen=True):
    """The gathered mass before the first turn.

    Attributes
    ----------
    fat_share : float
        Volume share of the pieces [-], above 0 and below 0.95.
    height_mm, length_mm : float
        Height, and length and width alike [mm].
    piece_mm : float
        Size of a piece of fat: edge of a cube, width of a flake or grating [mm].
    seed : int
        Of the places of the pieces.
    form : {'cubes', 'flakes', 'crumbs', 'gratings'}
    spread : float
        How unlike the pieces are: sizes lie evenly within ± this share of the mean [-], 0 to 0.8.
    """

    fat_share: float
    height_mm: float
    length_mm: float
    piece_mm: float
    seed: int = 7
    form: Form = "cubes"
    spread: float = 0.0


MOST_LAYERS = 80
"""Layers of pieces above one another that are still drawn one by one [-]."""
MOST_COLUMNS = 160
"""Cells either way that are laid each for itself; beyond them the pattern comes again [-]."""
Floats = NDArray[np.float32]
Places = NDArray[np.intp]


class Pieces:
    """Pieces of fat laid in a mass, the same for the same seed.

    Parameters
    ----------
    mass : Mass

    Raises
    ------
    AplombError
        For a share or size that cannot be used.

    Notes
    -----
    Pieces stand above one another in columns, wholly inside the mass, at random heights; every
    column has its place at random in its cell, and every row of cells a random phase. They never
    overlap, and all together fill `fat_share` of the mass but for what the size of a cell allows.
    """

    def __init__(self, mass: Mass) -> None:
        if (
            not 0 < mass.fat_share < 0.95
            or not min(mass.height_mm, mass.length_mm, mass.piece_mm) > 0
            or not 0 <= mass.spread <= 0.8
        ):
            raise AplombError("a mass with pieces needs sizes above 0 and a fat share of 0 to 0.95")
        layers, high, fill = _lattice(mass)
        if layers > MOST_LAYERS:
            raise AplombError(
                f"pieces of {mass.piece_mm:g} mm in a mass {mass.height_mm:g} mm high are too "
                f"small to be drawn one by one; {mass.height_mm / MOST_LAYERS:.2g} mm can be"
            )
        long, wide, _ = (each * mass.piece_mm for each in FORMS[mass.form])
        self._cells = (_cells(mass.length_mm, long, fill), _cells(mass.length_mm, wide, fill))
        self._period = (min(self._cells[0], MOST_COLUMNS), min(self._cells[1], MOST_COLUMNS))
        columns = self._period[0] * self._period[1]
        random = np.random.default_rng(mass.seed)
        s = spread_of(mass.form, mass.spread)
        self._unlike = s > 0
        heights = np.full((layers, columns), high)
        self._wide = np.full(columns, fill, "f4")
        if s:
            factor = 1 + s * (2 * random.random((layers, columns)) - 1)
            heights *= factor / factor.mean()
            most = np.minimum(1.0, 0.98 / heights.sum(axis=0))
            heights *= most
            side = np.sqrt(factor.mean(axis=0) * mass.fat_share / heights.sum(axis=0).mean())
            self._wide = np.minimum(side, 0.98).astype("f4")
        gaps = np.diff(np.sort(random.random((layers, columns)), axis=0), axis=0, prepend=0.0) * (
            1 - heights.sum(axis=0)
        )
        bottoms = np.cumsum(gaps + heights, axis=0) - heights
        self._bottoms, self._heights = bottoms.astype("f4"), heights.astype("f4")
        self._corners = (random.random((2, columns)) * (1 - self._wide)).astype("f4")
        self._phase = random.random(self._period[1]).astype("f4")
        self._start = np.float32(random.random())

    def at(self, x: Floats, y: Floats, z: Floats) -> NDArray[np.bool_]:
        """Tell which points lie in a piece.

        Parameters
        ----------
        x, y, z : ndarray of float32, shape (n,)
            Places in the mass, as shares of its length, width and height [-].

        Returns
        -------
        ndarray of bool, shape (n,)
        """
        many_x, many_y = self._cells
        yi, yf = _cell(y * np.float32(many_y) + self._start, self._period[1])
        xi, xf = _cell(x * np.float32(many_x) + _of(self._phase, yi), self._period[0])
        xi *= self._period[1]
        xi += yi
        wide = _of(self._wide, xi)
        inside = _within(xf, _of(self._corners[0], xi), wide)
        inside &= _within(yf, _of(self._corners[1], xi), wide)
        in_layer = np.zeros(x.shape, bool)
        for bottom, high in zip(self._bottoms, self._heights, strict=True):
            in_layer |= _within(z, _of(bottom, xi), _of(high, xi) if self._unlike else high[0])
        inside &= in_layer
        return inside


@lru_cache(maxsize=4)
def pieces_in(mass: Mass) -> Pieces:
    """Lay the pieces in a mass, once for the same mass; raises as `Pieces`."""
    return Pieces(mass)


def _of(table: Floats, place: Places) -> Floats:
    """Look places up in a table; the mode spares a second look at each of them."""
    return np.asarray(table.take(place, mode="clip"))


def _cells(length_mm: float, piece_mm: float, fill: float) -> int:
    """How many cells of pieces go into a length; a piece fills `fill` of its cell."""
    return max(1, round(length_mm / piece_mm * fill))


def _lattice(mass: Mass) -> tuple[int, float, float]:
    """Layers of pieces, their height over the mass's, and their width over a cell's [-]."""
    piece = mass.piece_mm * FORMS[mass.form][2]
    high = min(1.0, piece / mass.height_mm)
    cell = piece / mass.fat_share ** (1 / 3)
    layers = max(
        math.floor(mass.height_mm / cell + 0.35), math.ceil(mass.fat_share / high - 1e-9), 1
    )
    if layers * high > 1:
        layers = max(1, math.floor(1 / high))
        high = max(high, min(1 / layers, mass.fat_share / layers))
    return layers, high, min(1.0, math.sqrt(mass.fat_share / (layers * high)))


def _cell(scaled: Floats, cells: int) -> tuple[Places, Floats]:
    """Find the cell of each place, and the place within it; the lattice goes on round the edges."""
    index = np.floor(scaled)
    within = scaled - index
    cell = index.astype(np.intp)
    if cell.size and cell.max() >= 2 * cells:
        cell %= cells
    else:  # a division less for each place
        cell[cell >= cells] -= cells
    return cell, within


def _within(place: Floats, corner: Floats, size: Floats | np.float32) -> NDArray[np.bool_]:
    """Tell whether a place lies within the piece that begins at a corner."""
    off = place - corner
    return np.asarray((off >= 0) & (off <= size))
