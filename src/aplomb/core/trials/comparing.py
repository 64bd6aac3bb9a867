"""Two variants, in pairs or apart: they differ, are alike, or not enough is known to say."""

import math
from collections.abc import Callable, Sequence
from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import Problems

Verdict = Literal["different", "alike", "not_enough"]
LEAST_ALIKE = 3
"""Fewer pairs never say that two variants are alike [-]."""
MOST_PAIRS, MOST_MORE = 100_000, 100_000
MOST_APART = 2000
LEVEL = 0.95


class Compared(Struct, frozen=True):
    """What pairs, or two groups, say.

    Attributes
    ----------
    difference : float
        Second less first, the mean.
    low, high : float or None
        Between which it lies in 95 of 100 cases; None with one pair, or one of a group.
    more : int or None
        Pairs, or trials of each group, still needed to tell a difference that matters [-]; None
        when that cannot be said.
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

    Raises
    ------
    FormulaError
        Without pairs, or with a figure that cannot be used.

    Notes
    -----
    Student's paired t interval. Alike when it lies within ± `matters` (two one-sided tests,
    Schuirmann 1987, *J. Pharmacokinet. Biopharm.* 15) and there are three pairs at the least;
    different when it leaves nought out and reaches what matters. `more` is how many pairs more make
    the half-width as small as `matters`, were their scatter what it is. The scatter is at the least
    that of rounding, :math:`s^2 = 2 d^2 / 12` for readings to the place :math:`d`: three readings
    of 3.5 do not mean that nothing varies.
    """
    wrong = Problems()
    if not 1 <= len(pairs) <= MOST_PAIRS:
        wrong.add(f"pairs: {len(pairs)} are given; use 1 to {MOST_PAIRS}.")
    if not (math.isfinite(matters) and matters > 0):
        wrong.add(f"matters: {matters} is not a difference; use one above 0.")
    for i, pair in enumerate(pairs[:MOST_PAIRS]):
        for name, value in zip(("first", "second"), pair, strict=True):
            wrong.number(f"pairs[{i}].{name}", value, -1e9, 1e9, "")
    wrong.check()
    apart = [second - first for first, second in pairs]
    n = len(apart)
    mean = math.fsum(apart) / n
    if n == 1:
        return Compared(mean, None, None, "not_enough", None)
    unseen = 2 * _rounding([each for pair in pairs for each in pair])
    scatter = math.sqrt(max(unseen, math.fsum((each - mean) ** 2 for each in apart) / (n - 1)))
    return _judged(mean, _half(scatter, n), n, matters, lambda: _more(scatter, n, matters))


def compare_apart(first: Sequence[float], second: Sequence[float], matters: float) -> Compared:
    """Compare two variants that were not made in pairs.

    Parameters
    ----------
    first, second : sequence of float
        What came of each trial, in the outcome's unit.
    matters : float
        The least difference worth knowing.

    Raises
    ------
    FormulaError
        With an empty group, or a figure that cannot be used.

    Notes
    -----
    Welch's interval (Welch 1947, *Biometrika* 34), with Satterthwaite's degrees of freedom; the
    verdict is reached as in `compare`, and so is the least scatter, :math:`d^2 / 12` of each group.
    """
    wrong = Problems()
    for name, group in (("first", first), ("second", second)):
        if not 1 <= len(group) <= MOST_PAIRS:
            wrong.add(f"{name}: {len(group)} trials; use 1 to {MOST_PAIRS}.")
        for i, value in enumerate(group[:MOST_PAIRS]):
            wrong.number(f"{name}[{i}]", value, -1e9, 1e9, "")
    if not (math.isfinite(matters) and matters > 0):
        wrong.add(f"matters: {matters} is not a difference; use one above 0.")
    wrong.check()
    mean = math.fsum(second) / len(second) - math.fsum(first) / len(first)
    n, m = len(first), len(second)
    if min(n, m) < 2:
        return Compared(mean, None, None, "not_enough", None)
    from statistics import variance  # not at the start: it brings fractions and more

    unseen = _rounding((*first, *second))
    a, b = max(unseen, variance(first)), max(unseen, variance(second))
    half = _half_apart(a / n, b / m, n, m)
    pooled = math.sqrt((a + b) / 2)
    return _judged(mean, half, min(n, m), matters, lambda: _more_apart(pooled, n, m, matters))


def _rounding(readings: Sequence[float]) -> float:
    """Variance of rounding, by the finest place to which any of the readings was written."""
    places = max(len(f"{each:.9f}".rstrip("0").partition(".")[2]) for each in readings)
    return float(10.0 ** (-2 * places) / 12)


def _judged(
    mean: float, half: float, n: int, matters: float, more: Callable[[], int | None]
) -> Compared:
    """Reach the verdict on a difference, its half-width, and pairs or the smaller group."""
    low, high = mean - half, mean + half
    if n >= LEAST_ALIKE and -matters < low and high < matters:
        return Compared(mean, low, high, "alike", 0)
    if (low > 0 or high < 0) and abs(mean) >= matters:
        return Compared(mean, low, high, "different", 0)
    return Compared(mean, low, high, "not_enough", more())


def _half_apart(first: float, second: float, n: int, m: int) -> float:
    """Half of Welch's interval from each group's variance of its mean."""
    from scipy.special import stdtrit

    both = first + second
    freedom = both**2 / (first**2 / (n - 1) + second**2 / (m - 1))
    return float(stdtrit(freedom, 0.5 + LEVEL / 2)) * math.sqrt(both)


def _more_apart(scatter: float, n: int, m: int, matters: float) -> int | None:
    """Trials of each group still needed until the half-width is what matters."""
    for more in range(1, MOST_APART):
        a, b = max(n + more, LEAST_ALIKE), max(m + more, LEAST_ALIKE)
        if _half_apart(scatter**2 / a, scatter**2 / b, a, b) <= matters:
            return more
    return None


def _half(scatter: float, n: int) -> float:
    from scipy.special import stdtrit

    return float(stdtrit(n - 1, 0.5 + LEVEL / 2)) * scatter / math.sqrt(n)


def _more(scatter: float, n: int, matters: float) -> int | None:
    """Pairs still needed until the half-width is what matters."""
    least = max(n, LEAST_ALIKE)
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
