"""Blind tasting: the triangle test, the paired preference, how many tasters, and their codes.

In a triangle two of three samples are alike, and guessing is right one time in three; of a pair
each taster says which is liked better.
"""

import math
from fractions import Fraction
from typing import TYPE_CHECKING

from msgspec import Struct

from aplomb.core.base.errors import Problems

if TYPE_CHECKING:
    from numpy.random import Generator

MOST_TASTERS = 10_000
MOST_ON_SHEET = 60
"""Tasters on one score sheet [-]."""


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

    Raises
    ------
    FormulaError
        For figures that cannot be.

    Notes
    -----
    By guessing, right answers are binomial with p = 1/3 (ISO 4120); the least that counts is the
    first whose tail is not above alpha, worked out in whole numbers.
    """
    wrong = Problems()
    wrong.number("tasters", tasters, 1, MOST_TASTERS, "")
    wrong.number("right", right, 0, MOST_TASTERS, "")
    if not wrong.told and right > tasters:
        wrong.add(f"right: {right} of {tasters} tasters is not possible; check both.")
    if not 0 < alpha < 1:
        wrong.add(f"alpha: {alpha} cannot be used; use a number between 0 and 1, e.g. 0.05.")
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


class Preferred(Struct, frozen=True):
    """What a preference test says.

    Attributes
    ----------
    least : int or None
        So many for one of the two at the least show a preference at this level [-]; None when not
        even all would do.
    chance : float
        Of an answer so one-sided or more when nobody prefers either [-].
    """

    least: int | None
    chance: float


def preference(first: int, second: int, alpha: float = 0.05) -> Preferred:
    """Judge a paired preference test; who has none is left out.

    Parameters
    ----------
    first, second : int
        Tasters for each of the two [-].
    alpha : float
        So often may chance be taken for a preference, at the most [-].

    Raises
    ------
    FormulaError
        For figures that cannot be.

    Notes
    -----
    Both tails of the binomial distribution with p = 1/2, summed exactly (ISO 5495).

    Examples
    --------
    >>> preference(9, 1).chance
    0.021484375
    """
    wrong = Problems()
    for name, value in (("first", first), ("second", second)):
        wrong.number(name, value, 0, MOST_TASTERS, "")
    if not wrong.told and first + second < 1:
        wrong.add("tasters: nobody has given a preference yet.")
    if not 0 < alpha < 1:
        wrong.add(f"alpha: {alpha} cannot be used; use a number between 0 and 1, e.g. 0.05.")
    wrong.check()
    n = first + second
    least = next((k for k in range(n // 2 + 1, n + 1) if _both_tails(n, k) <= alpha), None)
    return Preferred(least, _both_tails(n, max(first, second)))


def _both_tails(n: int, most: int) -> float:
    if 2 * most <= n:
        return 1.0
    whole = 2 * sum(math.comb(n, k) for k in range(most, n + 1))
    return min(1.0, float(Fraction(whole, 2**n)))


def tasters_needed(discriminators: float, alpha: float = 0.05, power: float = 0.8) -> int | None:
    """Say how many tasters a triangle test needs.

    Parameters
    ----------
    discriminators : float
        Share of people who really taste the difference [-].
    alpha : float
        So often may guessing be taken for a difference [-].
    power : float
        So often shall the difference be found when it is there [-].

    Returns
    -------
    int or None
        [-]; None when more than 500 were needed.

    Raises
    ------
    FormulaError
        For shares that cannot be.

    Notes
    -----
    Who tastes it is right, who does not guesses: p = d + (1 − d)/3 (ISO 4120, annex on the number
    of assessors). The smallest number from which on the power is reached once.
    """
    wrong = Problems()
    for name, share in (("discriminators", discriminators), ("alpha", alpha), ("power", power)):
        if not 0 < share < 1:
            wrong.add(f"{name}: {share} is not a share; use one between 0 and 1.")
    wrong.check()
    p = discriminators + (1 - discriminators) / 3
    for n in range(3, 501):
        least = _least_right(n, alpha)
        if least is None:
            continue
        found = math.fsum(math.comb(n, k) * p**k * (1 - p) ** (n - k) for k in range(least, n + 1))
        if found >= power:
            return n
    return None


class Serving(Struct, frozen=True):
    """What one taster gets: three codes in order, and which of them is the odd one.

    Attributes
    ----------
    codes : tuple of str
        Three digits each.
    odd : int
        Place of the odd one, 0 for the first [-].
    odd_is_first : bool
        True when the odd one is of the first variant.
    """

    codes: tuple[str, ...]
    odd: int
    odd_is_first: bool


def servings(tasters: int, rng: "Generator") -> tuple[Serving, ...]:
    """Draw the servings of a triangle test: six orders in turn, shuffled, with codes.

    All codes of a sheet differ.

    Raises
    ------
    FormulaError
        For more tasters than fit a sheet.
    """
    wrong = Problems()
    wrong.number("tasters", tasters, 1, MOST_ON_SHEET, "")
    wrong.check()
    orders = [(odd, first) for first in (True, False) for odd in range(3)]
    turn = [orders[i % 6] for i in range(tasters)]
    shuffled = [turn[int(i)] for i in rng.permutation(tasters)]
    drawn = iter(rng.choice(900, size=3 * tasters, replace=False) + 100)
    return tuple(
        Serving(tuple(str(next(drawn)) for _ in range(3)), odd, first) for odd, first in shuffled
    )
