"""A blind triangle test: of three samples two are alike; guessing is right one time in three."""

import math
from fractions import Fraction

from msgspec import Struct

from aplomb.core.base.errors import Problems

MOST_TASTERS = 10_000


class Tasted(Struct, frozen=True):
    """What a triangle test says.

    Attributes
    ----------
    least_right : int or None
        So many right answers at the least tell them apart at this level [-]; None when not even
        all would do.
    chance : float
        Of so many right answers or more by guessing [-].
    """

    least_right: int | None
    chance: float


def tail(tasters: int, right: int) -> float:
    """Give the chance of so many right answers or more by guessing [-].

    Parameters
    ----------
    tasters, right : int
        [-].

    Returns
    -------
    float
        [-].

    Notes
    -----
    The upper tail of the binomial distribution with p = 1/3, summed exactly (ISO 4120).

    Examples
    --------
    >>> tail(3, 3) == 1 / 27
    True
    """
    if right <= 0:
        return 1.0
    whole = sum(math.comb(tasters, k) * 2 ** (tasters - k) for k in range(right, tasters + 1))
    return float(Fraction(whole, 3**tasters))


def triangle(tasters: int, right: int, alpha: float = 0.05) -> Tasted:
    """Judge a triangle test.

    Parameters
    ----------
    tasters, right : int
        How many tasted, and how many found the odd one [-].
    alpha : float
        So often may guessing be taken for a difference, at the most [-].

    Returns
    -------
    Tasted

    Raises
    ------
    FormulaError
        For figures that cannot be.
    """
    wrong = Problems()
    wrong.number("tasters", tasters, 1, MOST_TASTERS, "")
    wrong.number("right", right, 0, MOST_TASTERS, "")
    if not wrong.found and right > tasters:
        wrong.add(f"right: {right} of {tasters} tasters cannot be.")
    if not 0 < alpha < 1:
        wrong.add(f"alpha: {alpha} is no level; use one between 0 and 1, e.g. 0.05.")
    wrong.check()
    return Tasted(_least_right(tasters, alpha), tail(tasters, right))


def _least_right(tasters: int, alpha: float) -> int | None:
    """Go down from all right while that is rarer by guessing than the level allows."""
    allowed = Fraction(alpha) * 3**tasters
    least, whole, term = tasters + 1, 0, 1  # term: comb(n, k) 2^(n − k), for k = n
    while least > 0 and whole + term <= allowed:
        whole += term
        least -= 1
        k = least
        term = term * k * 2 // (tasters - k + 1)
    return least if least <= tasters else None
