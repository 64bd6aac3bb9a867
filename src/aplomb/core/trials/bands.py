"""A band learned from trials: where an outcome is near its best, and how sure its ends are."""

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.trials.model import FACTORS, Model
from aplomb.core.trials.trial import MADE_WORDS, OUTCOMES, Made

LEAST_FOR_BAND = 20
"""With fewer trials no band is shown [-]; tried on simulated bakeries."""
NEAR_BEST = 0.05
"""An outcome so little off its best counts as good [-]."""
DRAWS, STEPS = 1500, 81
LIKELY = 0.5
"""A value belongs to the band when the outcome is more likely near its best than not [-]."""


class LearnedBand(Struct, frozen=True):
    """Where an outcome is near its best.

    Attributes
    ----------
    low, high, best : float
        In the factor's unit.
    low_from, low_to, high_from, high_to : float
        Between which each end lies in 90 of 100 cases.
    open_low, open_high : bool
        True where the band reaches the end of what was tried: it may go on.
    at_best : float
        The outcome there, on the mean.
    n : int
        Trials it was learned from that say the factor [-].
    scatter : float
        Of trials that are alike, in the outcome's unit.
    """

    factor: str
    outcome: str
    low: float
    high: float
    best: float
    low_from: float
    low_to: float
    high_from: float
    high_to: float
    open_low: bool
    open_high: bool
    at_best: float
    n: int
    scatter: float


def grid_of(model: Model, factor: str) -> np.ndarray:
    """Give values of a factor from the least to the most that was tried.

    Returns
    -------
    array of shape (81,)
        In the factor's unit; evenly spread, over its logarithm where that counts. Empty when fewer
        than two different values were tried.
    """
    about = next(each for each in FACTORS if each.key == factor)
    said = [v for row in model.rows if (v := getattr(row.made, factor)) is not None]
    if not said or min(said) >= max(said):
        return np.array([])
    ends = (min(said), max(said))
    if about.log:
        return np.geomspace(max(ends[0], MADE_WORDS[factor].low), ends[1], STEPS)
    return np.linspace(*ends, STEPS)


def learned_band(
    model: Model, factor: str, rng: np.random.Generator, least: int = LEAST_FOR_BAND
) -> LearnedBand | None:
    """Learn where an outcome is near its best.

    None with too few trials, or where nothing was varied.

    Parameters
    ----------
    factor : str
        A key of `FACTORS`.
    rng : Generator
        For draws of what may be true.
    least : int
        Trials that must say the factor [-].

    Notes
    -----
    Curves are drawn from what is believed (a multivariate t distribution). A value belongs to the
    band when in half of the curves or more the outcome there is within `NEAR_BEST` of that curve's
    best over what was tried. The ends' intervals are the 5 and 95 % quantiles of the curves' own
    ends. Nothing is said beyond what was tried.
    """
    n = model.known(factor)
    grid = grid_of(model, factor)
    if n < least or not len(grid):
        return None
    sign = OUTCOMES[model.outcome].better or 1
    x = model.columns([replace(Made(), **{factor: float(v)}) for v in grid])
    belief = model.belief
    root = np.linalg.cholesky(belief.cov + 1e-12 * np.eye(len(belief.cov)))
    wide = np.sqrt(belief.freedom / rng.chisquare(belief.freedom, DRAWS))
    z = rng.standard_normal((DRAWS, len(belief.mean)))
    draws = belief.mean + belief.scatter * wide[:, None] * (z @ root.T)
    curves = sign * (draws @ x.T)
    tops = curves.max(axis=1, keepdims=True)
    near = curves >= tops - NEAR_BEST * np.abs(tops)
    share = near.mean(axis=0)
    at = int(np.argmax(share))
    first, last = _run(share >= min(LIKELY, float(share[at])), at)
    ends = np.array(
        [_run(row, int(np.argmax(curve))) for row, curve in zip(near, curves, strict=True)]
    )
    low_from, low_to = np.quantile(grid[ends[:, 0]], (0.05, 0.95))
    high_from, high_to = np.quantile(grid[ends[:, 1]], (0.05, 0.95))
    mean = x @ belief.mean
    best = int(np.argmax(sign * mean))
    return LearnedBand(
        factor,
        model.outcome,
        float(grid[first]),
        float(grid[last]),
        float(grid[best]),
        float(low_from),
        float(low_to),
        float(high_from),
        float(high_to),
        first == 0,
        last == len(grid) - 1,
        float(mean[best]),
        n,
        belief.scatter,
    )


def _run(holds: np.ndarray, at: int) -> tuple[int, int]:
    """First and last place of the run of true ones round a place."""
    first = last = at
    while first > 0 and holds[first - 1]:
        first -= 1
    while last < len(holds) - 1 and holds[last + 1]:
        last += 1
    return first, last
