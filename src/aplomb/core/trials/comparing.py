"""Two variants in pairs: whether they differ, are alike, or not enough is known to say."""

import math
from collections.abc import Sequence
from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import Problems

Verdict = Literal["different", "alike", "not_enough"]
LEAST_ALIKE = 3
"""Fewer pairs never say that two variants are alike [-]."""
MOST_PAIRS, MOST_MORE = 100_000, 100_000
LEVEL = 0.95


class Compared(Struct, frozen=True):
    """What pairs say.

    Attributes
    ----------
    difference : float
        Second less first, the mean.
    low, high : float or None
        Between which it lies in 95 of 100 cases; None with one pair.
    verdict : {'different', 'alike', 'not_enough'}
    more : int or None
        Pairs still needed to tell a difference that matters [-]; None when that cannot be said.
    """

    difference: float
    low: float | None
    high: float | None
    verdict: Verdict
    more: int | None


def compare(pairs: Sequence[tuple[float, float]], matters: float) -> Compared:
    """Compare two variants in pairs.

    Parameters
    ----------
    pairs : sequence of (first, second)
        Made on one day, by one baker, of one dough.
    matters : float
        The least difference worth knowing, in the outcome's unit.

    Returns
    -------
    Compared

    Raises
    ------
    FormulaError
        Without pairs, or with a figure that cannot be used.

    Notes
    -----
    Student's paired t interval. Alike when it lies within ± `matters` (two one-sided tests,
    Schuirmann 1987, *J. Pharmacokinet. Biopharm.* 15) and there are three pairs at the least;
    different when it leaves nought out and reaches what matters. `more` is how many pairs more make
    the half-width as small as `matters`, were their scatter what it is.
    """
    wrong = Problems()
    if not 1 <= len(pairs) <= MOST_PAIRS:
        wrong.add(f"pairs: {len(pairs)} are given; use 1 to {MOST_PAIRS}.")
    if not (math.isfinite(matters) and matters > 0):
        wrong.add(f"matters: {matters} is no difference; use one above 0.")
    for i, pair in enumerate(pairs[:MOST_PAIRS]):
        for name, value in zip(("first", "second"), pair, strict=True):
            wrong.number(f"pairs[{i}].{name}", value, -1e9, 1e9, "")
    wrong.check()
    apart = [second - first for first, second in pairs]
    n = len(apart)
    mean = math.fsum(apart) / n
    if n == 1:
        return Compared(mean, None, None, "not_enough", None)
    scatter = math.sqrt(math.fsum((each - mean) ** 2 for each in apart) / (n - 1))
    half = _half(scatter, n)
    low, high = mean - half, mean + half
    more = _more(scatter, n, matters)
    if n >= LEAST_ALIKE and -matters < low and high < matters:
        return Compared(mean, low, high, "alike", 0)
    if (low > 0 or high < 0) and abs(mean) >= matters:
        return Compared(mean, low, high, "different", 0)
    return Compared(mean, low, high, "not_enough", more)


def _half(scatter: float, n: int) -> float:
    from scipy.special import stdtrit

    return float(stdtrit(n - 1, 0.5 + LEVEL / 2)) * scatter / math.sqrt(n)


def _more(scatter: float, n: int, matters: float) -> int | None:
    """Pairs still needed until the half-width is what matters."""
    least = max(n, LEAST_ALIKE)
    if scatter <= 0:
        return max(1, least - n)
    low, high = least, least
    while _half(scatter, high) > matters:
        high *= 2
        if high > MOST_MORE:
            return None
    while low < high:
        middle = (low + high) // 2
        if _half(scatter, middle) <= matters:
            high = middle
        else:
            low = middle + 1
    return max(1, high - n)
