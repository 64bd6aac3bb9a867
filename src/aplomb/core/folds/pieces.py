"""Fat in pieces: where the cubes, flakes, crumbs or gratings lie in the gathered mass."""

import math
from functools import lru_cache

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mm_text, num
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
MOST_CELLS = 64
"""Cells either way that are laid each for itself; beyond them the pattern comes again [-]."""
LEAST_ANGLE, MOST_ANGLE = 0.3, 1.25
"""How far a layer of pieces is turned from the way of rolling, between these [rad]: folds look into
the mass at even steps, and pieces in rows along them would be met all or none."""
NARROWEST = 0.98
"""Most of a cell that a piece fills [-]: there is dough between them."""
FILLED, DENSEST = 0.65, 0.8
"""Share of the cells with a piece, and most of the mass that is cells with one [-], our choice: at
random, so that the number of pieces along a line scatters as that of mixed pieces does."""
Floats = NDArray[np.float32]
Places = NDArray[np.int32]


class Pieces:
    """Pieces of fat laid in a mass, the same for the same seed.

    Raises
    ------
    AplombError
        For a share or size that cannot be used.

    Notes
    -----
    Pieces lie in layers, each in a cell of its own, some cells at random without one, and each at a
    random place of its cell. Every layer is turned by a random angle and moved by a random
    distance, so that no row of pieces lies along the folds. They never overlap. The mass is cut out
    of them: together they fill `fat_share` of it but for chance, and for what the size of a cell
    allows.
    """

    def __init__(self, mass: Mass) -> None:
        if (
            not 0 < mass.fat_share < 0.95
            or not min(mass.height_mm, mass.length_mm, mass.piece_mm) > 0
            or not 0 <= mass.spread <= 0.8
        ):
            raise AplombError(
                f"paste with fat in pieces needs sizes above 0 and a fat share of 0 to {num(0.95)}"
            )
        self.filled = max(FILLED, mass.fat_share / DENSEST)
        layers, high, fill = _lattice(mass, mass.fat_share / self.filled)
        if layers > MOST_LAYERS:
            raise AplombError(
                f"pieces of {mm_text(mass.piece_mm)} in a block {mm_text(mass.height_mm)} "
                "thick are too small to draw one by one; use at least "
                f"{mm_text(mass.height_mm / MOST_LAYERS, '.2g')}"
            )
        long, wide, _ = (each * mass.piece_mm for each in FORMS[mass.form])
        random = np.random.default_rng(mass.seed)
        s = spread_of(mass.form, mass.spread)
        per_length = mass.length_mm * fill / np.array([long, wide])
        needed = math.ceil(1.5 * per_length.max()) + 2
        self._layers = layers
        self._cells = min(2 ** math.ceil(math.log2(needed)), MOST_CELLS)
        cells = layers * self._cells**2
        heights, widths = np.full(cells, high * layers), np.full(cells, fill)
        if s:
            factor = 1 + s * (2 * random.random(cells) - 1)
            heights, widths = _unlike(factor, s, high * layers, mass.fat_share / self.filled)
        empty = random.random(cells) >= self.filled
        bottoms = random.random(cells) * (1 - heights)
        corners = random.random((2, cells)) * (1 - widths)
        bottoms[empty] = 2.0  # beyond the cell: nothing lies there
        # In halves of a size, so that |place - middle| < half tells what lies within.
        self._middles = np.stack(
            [corners[0] + widths / 2, corners[1] + widths / 2, bottoms + heights / 2]
        ).astype("f4")
        self._halves = np.stack([widths / 2, heights / 2]).astype("f4")
        self._alike = not s
        angle = random.uniform(LEAST_ANGLE, MOST_ANGLE, layers)
        along, across = np.cos(angle), np.sin(angle)
        px, py = per_length
        off = 4 * MOST_CELLS + random.random((2, layers)) * MOST_CELLS  # never below nothing
        self._to_p = np.array([along * px, across * px, off[0]], "f4")
        self._to_q = np.array([-across * py, along * py, off[1]], "f4")

    def at(self, x: Floats, y: Floats, z: Floats, row: int = 1) -> NDArray[np.bool_]:
        """Tell which points lie in a piece.

        Parameters
        ----------
        x, y, z : ndarray of float32, shape (n,)
            Places in the mass, as shares of its length, width and height [-].
        row : int
            So many points after one another have the same height, which spares looking it up.

        Returns
        -------
        ndarray of bool, shape (n,)
        """
        return self._look(x, y, z, row)[0]

    def which(self, x: Floats, y: Floats, z: Floats, row: int = 1) -> NDArray[np.int32]:
        """Tell in which piece each point lies; parameters as of `at`.

        Returns
        -------
        ndarray of int32, shape (n,)
            A number of the piece, from 1; 0 for dough.
        """
        inside, place = self._look(x, y, z, row)
        return np.where(inside, place + 1, 0).astype(np.int32)

    def _look(self, x: Floats, y: Floats, z: Floats, row: int) -> tuple[NDArray[np.bool_], Places]:
        """Tell which points lie in a piece, and the cell that each lies in."""
        high = z[::row, None] * np.float32(self._layers)
        layer = high.astype(np.int32)
        np.clip(layer, 0, self._layers - 1, out=layer)
        high -= layer
        x, y = x.reshape(-1, row), y.reshape(-1, row)
        place, off_p = self._cell(self._to_p, layer, x, y)
        second, off_q = self._cell(self._to_q, layer, x, y)
        place += layer * self._cells
        place *= self._cells
        place += second
        inside = self._near(off_p, 0, place)
        inside &= self._near(off_q, 1, place)
        inside &= self._near(np.broadcast_to(high, place.shape), 2, place)
        return inside.reshape(-1), place.reshape(-1)

    def _cell(self, to: Floats, layer: Places, x: Floats, y: Floats) -> tuple[Places, Floats]:
        """Find the cell of each place one way, and the place within it, as its layer is turned."""
        off = _of(to[0], layer) * x
        off += _of(to[1], layer) * y
        off += _of(to[2], layer)
        cell = off.astype(np.int32)
        off -= cell
        cell &= self._cells - 1  # the lattice goes on round its edges
        return cell, off

    def _near(self, off: Floats, way: int, place: Places) -> NDArray[np.bool_]:
        """Tell whether a place within its cell lies in the piece there, one way."""
        off = off - _of(self._middles[way], place)
        np.abs(off, out=off)
        halves = self._halves[way // 2]
        return np.asarray(off <= (halves[0] if self._alike else _of(halves, place)))


def _unlike(
    factor: NDArray[np.float64], spread: float, high: float, share: float
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Heights and widths of pieces of unlike sizes over their cells' [-].

    Together they fill `share` of their cells, and a line meets as many of them as it would of
    pieces that have room for all their size: see `pieces_at_start`.
    """
    met = share / high * (1 + spread**2 / 3) / (1 + spread**2)
    widths = _scaled(factor, np.ones_like(factor), 2, met)
    return _scaled(factor, widths**2, 1, share), widths


def _scaled(
    factor: NDArray[np.float64], weight: NDArray[np.float64], power: int, mean: float
) -> NDArray[np.float64]:
    """Sizes in proportion to a factor, none beyond its cell, of a weighted mean of their power."""
    low, high = 0.0, 50.0
    for _ in range(40):
        middle = (low + high) / 2
        tried = np.minimum(middle * factor, NARROWEST) ** power
        low, high = (middle, high) if (weight * tried).mean() < mean else (low, middle)
    return np.minimum(high * factor, NARROWEST)


@lru_cache(maxsize=4)
def pieces_in(mass: Mass) -> Pieces:
    """Lay the pieces in a mass, once for the same mass; raises as `Pieces`."""
    return Pieces(mass)


def _of(table: Floats, place: Places) -> Floats:
    """Look places up in a table; the mode spares a second look at each of them."""
    return np.asarray(table.take(place, mode="clip"))


def _lattice(mass: Mass, share: float) -> tuple[int, float, float]:
    """Layers of pieces.

    Their height over the mass's, and their width over a cell's [-], that together fill so much
    of the mass when every cell has one.
    """
    piece = mass.piece_mm * FORMS[mass.form][2]
    high = min(1.0, piece / mass.height_mm)
    cell = piece / share ** (1 / 3)
    layers = max(math.floor(mass.height_mm / cell + 0.35), math.ceil(share / high - 1e-9), 1)
    if layers * high > 1:
        layers = max(1, math.floor(1 / high))
        high = max(high, min(1 / layers, share / layers))
    return layers, high, min(1.0, math.sqrt(share / (layers * high)))
