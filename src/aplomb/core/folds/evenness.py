"""How even a section is: fat leaves along every vertical, bare places, long stretches of dough."""

import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aplomb.core.errors import AplombError
from aplomb.core.folds.pieces import Mass, leaves_along, section
from aplomb.core.folds.plan import Plan

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
    histogram : tuple of (leaves, verticals)
        How many verticals have so many leaves.
    """

    mean: float
    spread: float
    least: int
    most: int
    bare_share: float
    longest_mm: float
    histogram: tuple[tuple[int, int], ...]


def evenness(cut: NDArray[np.bool_], height_mm: float) -> Evenness:
    """Judge a section.

    Parameters
    ----------
    cut : ndarray of bool, shape (rows, columns)
        True where there is fat.
    height_mm : float
        What its height stands for [mm].

    Returns
    -------
    Evenness

    Raises
    ------
    AplombError
        For an empty section or a height that is not above 0.
    """
    if cut.size == 0 or not height_mm > 0:
        raise AplombError("a section with a height above 0 mm is wanted")
    leaves = leaves_along(cut)
    values, many = np.unique(leaves, return_counts=True)
    return Evenness(
        mean=float(leaves.mean()),
        spread=float(leaves.std()),
        least=int(leaves.min()),
        most=int(leaves.max()),
        bare_share=float((leaves == 0).mean()),
        longest_mm=_longest(~cut) * height_mm / cut.shape[0],
        histogram=tuple((int(v), int(n)) for v, n in zip(values, many, strict=True)),
    )


def _longest(there: NDArray[np.bool_]) -> int:
    """Longest run of True down any column [rows]."""
    longest = np.zeros(there.shape[1], int)
    run = np.zeros(there.shape[1], int)
    for row in there:
        run = np.where(row, run + 1, 0)
        np.maximum(longest, run, out=longest)
    return int(longest.max())


def evenness_of(plan: Plan, mass: Mass, leaves: float, height_mm: float) -> Evenness:
    """Cut through paste in pieces and judge it.

    Parameters
    ----------
    plan : Plan
    mass : Mass
    leaves : float
        Fat leaves expected along a vertical [-], for a grid that is fine enough.
    height_mm : float
        Height of the block or sheet [mm].

    Raises
    ------
    AplombError
        As `section` and `evenness`.
    """
    rows = min(MOST_ROWS, max(LEAST_ROWS, math.ceil(leaves * POINTS_A_LEAF)))
    return evenness(section(plan, mass, rows, VERTICALS), height_mm)
