"""How even a section is: fat leaves along every vertical, bare places, long stretches of dough."""

import math

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.counts import FAT
from aplomb.core.folds.raster import Section

VERTICALS = 120
POINTS_A_LEAF = 40
LEAST_ROWS, MOST_ROWS = 800, 12_000
"""Verticals that are looked at, and the grid along them: a thin stretch of dough between two
pieces must still be seen, or two leaves count as one."""


class Evenness(Struct, frozen=True):
    """What the verticals of a section tell.

    Attributes
    ----------
    mean, spread : float
        Fat leaves along a vertical and their standard deviation [-].
    least, most : int
        Fewest and most along one vertical [-].
    bare_share : float
        Share of the verticals without any fat [-].
    longest_mm : float
        Longest stretch of dough along a vertical [mm].
    leaf_um, leaf_spread_um : float
        Mean fat leaf along the verticals and the standard deviation of them [µm]; 0 without any.
    histogram : tuple of (leaves, verticals)
        How many verticals have so many leaves.
    error : float or None
        Standard error of the mean, as another section of the same paste would differ [-]: of paste
        in pieces, from the pieces that were met. None where nothing lies at random.
    """

    mean: float
    spread: float
    least: int
    most: int
    bare_share: float
    longest_mm: float
    leaf_um: float
    leaf_spread_um: float
    histogram: tuple[tuple[int, int], ...]
    error: float | None = None

    @property
    def evenness(self) -> float:
        """1 when every vertical meets as many leaves, less the more they differ.

        1 - spread over mean, 0 at the least [-].
        """
        return max(0.0, 1 - self.spread / self.mean) if self.mean > 0 else 0.0


def evenness(cut: NDArray[np.bool_], height_mm: float) -> Evenness:
    """Judge a section.

    Parameters
    ----------
    cut : ndarray of bool, shape (rows, columns)
        True where there is fat.
    height_mm : float
        What its height stands for [mm].

    Raises
    ------
    AplombError
        For an empty section or a height that is not above 0.
    """
    if cut.size == 0 or not height_mm > 0:
        raise AplombError("a section needs a height above 0 mm")
    leaves = leaves_along(cut)
    values, many = np.unique(leaves, return_counts=True)
    row_mm = height_mm / cut.shape[0]
    fat_um = _runs(cut) * row_mm * 1000
    return Evenness(
        mean=float(leaves.mean()),
        spread=float(leaves.std()),
        least=int(leaves.min()),
        most=int(leaves.max()),
        bare_share=float((leaves == 0).mean()),
        longest_mm=int(_runs(~cut).max(initial=0)) * row_mm,
        leaf_um=float(fat_um.mean()) if len(fat_um) else 0.0,
        leaf_spread_um=float(fat_um.std()) if len(fat_um) else 0.0,
        histogram=tuple((int(v), int(n)) for v, n in zip(values, many, strict=True)),
    )


def _runs(there: NDArray[np.bool_]) -> NDArray[np.intp]:
    """Lengths of all runs of True down the columns [rows]."""
    bare = np.zeros((1, there.shape[1]), np.int8)
    steps = np.diff(there.astype(np.int8), axis=0, prepend=bare, append=bare).T.reshape(-1)
    return np.asarray(np.flatnonzero(steps == -1) - np.flatnonzero(steps == 1))


def leaves_along(cut: NDArray[np.bool_]) -> NDArray[np.intp]:
    """Count fat leaves along every vertical of a section.

    Returns
    -------
    ndarray of int, shape (columns,)
    """
    first = cut[:1].astype(np.intp)
    begins = (cut[1:] & ~cut[:-1]).sum(axis=0)
    return np.asarray(first.sum(axis=0) + begins)


def evenness_of(section: Section, leaves: float, height_mm: float) -> Evenness:
    """Cut through paste and judge it.

    Parameters
    ----------
    leaves : float
        Fat leaves expected along a vertical [-], for a grid that is fine enough.
    height_mm : float
        Height of the block or sheet [mm].

    Raises
    ------
    AplombError
        As `evenness`.
    """
    rows = min(MOST_ROWS, max(LEAST_ROWS, math.ceil(leaves * POINTS_A_LEAF)))
    numbers = section.pieces(rows, VERTICALS)
    if numbers is None:
        return evenness(section.kinds(rows, VERTICALS) == FAT, height_mm)
    found = evenness(numbers > 0, height_mm)
    begins = _first_of_each(numbers)
    leaves_met = begins.sum(axis=0)
    values, many = np.unique(leaves_met, return_counts=True)
    return replace(
        found,
        mean=float(leaves_met.mean()),
        spread=float(leaves_met.std()),
        least=int(leaves_met.min()),
        most=int(leaves_met.max()),
        histogram=tuple((int(v), int(n)) for v, n in zip(values, many, strict=True)),
        error=error_of_mean(numbers, section.filled),
    )


def _first_of_each(numbers: NDArray[np.int32]) -> NDArray[np.bool_]:
    """Where a piece begins down a vertical; of two that all but touch, each begins."""
    above = np.vstack([np.zeros_like(numbers[:1]), numbers[:-1]])
    return np.asarray((numbers > 0) & (numbers != above))


def error_of_mean(numbers: NDArray[np.int32], filled: float) -> float:
    """Estimate how far the mean of a section may be from that of all sections of such a paste.

    Standard error of the mean number of leaves along a vertical [-].

    Parameters
    ----------
    numbers : ndarray of int32, shape (rows, columns)
        Which piece of fat is seen at each pixel; 0 for none.
    filled : float
        Share of the places for a piece that have one [-], 0 to 1.

    Notes
    -----
    A piece adds c to the mean, its leaves over the verticals, and may be seen many times, for the
    folds lay it side by side with itself. Places have a piece or none independently, with the
    chance p: of n that were met the sum of c has the variance Σ c² - p (Σ c)² / n (a sum of
    independent terms; with few places filled, Campbell's theorem for a Poisson number). Pieces
    cannot overlap, and so scatter less than points would.
    """
    each = np.bincount(numbers[_first_of_each(numbers)]) / numbers.shape[1]
    each = each[each > 0]
    if not len(each):
        return 0.0
    return float(np.sqrt((each**2).sum() - filled * each.sum() ** 2 / len(each)))
