"""An outcome learned from trials: Bayesian regression with a prior from the recalled bands.

Few trials and much scatter are the usual case; an answer carries its interval, and the interval is
that of a *new single* trial, scatter and all.
"""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from aplomb.core.base.errors import Problems
from aplomb.core.trials.regression import (
    Belief,
    Floats,
    after_data,
    before_data,
    half_width,
    spread_of,
)
from aplomb.core.trials.trial import LEAST_LIFT, MOST_LIFT

MOST_TRIALS, MOST_ASKED, MOST_BAKERS = 20_000, 10_000, 200
OUTCOMES = ("lift",)
LEAF_UM, CHILL_MIN, BAKE_C = 10.0, 60.0, 200.0
"""Where the prior has its middle [µm, min, °C]."""
CHILL_SPAN, BAKE_SPAN = 45.0, 20.0
"""What one unit of chill and bake is [min, K]."""


class Prior(Struct, frozen=True):
    """What is believed before the first trial; all recalled.

    Attributes
    ----------
    mean : tuple of float
        Of the coefficients of `features`, in the outcome's unit.
    spread : tuple of float
        Their standard deviations.
    baker : float
        Standard deviation between bakers.
    scatter : float
        Likely scatter of trials that are alike.
    weight : float
        So many trials is what is said of the scatter worth [-].
    """

    mean: tuple[float, ...]
    spread: tuple[float, ...]
    baker: float
    scatter: float
    weight: float


LIFT = Prior(
    mean=(4.0, 0.0, -0.5, 0.2, -0.1, 0.1, -0.1),
    spread=(1.5, 0.8, 0.5, 0.5, 0.3, 0.5, 0.3),
    baker=0.35, scatter=0.45, weight=4.0,
)  # fmt: skip
"""Lift: three to four times the raw height is told as an ordinary good result, six to eight as the
best (common practice); best at some leaf, falling to both sides; all else recalled."""


class PlainTrial(Struct, frozen=True, forbid_unknown_fields=True):
    """What was done, without what came of it.

    Attributes
    ----------
    fat_leaf_um : float
        Mean fat leaf of the final sheet [µm].
    chill_min : float
        Last rest [min].
    bake_c : float
        Oven, without a fan [°C].
    """

    fat_leaf_um: float
    chill_min: float
    bake_c: float
    baker: str = ""


class Learned(Struct, frozen=True):
    """What the trials say.

    Attributes
    ----------
    belief : Belief
        Of the coefficients: those of `features`, then one for each baker.
    bakers : tuple of str
        In the order of their columns.
    """

    belief: Belief
    bakers: tuple[str, ...]

    @property
    def n(self) -> int:
        """Trials with an outcome [-]."""
        return self.belief.n

    @property
    def scatter(self) -> float:
        """Likely scatter of trials that are alike, in the outcome's unit."""
        return self.belief.scatter


class Interval(Struct, frozen=True):
    """A mean, and the ends between which a new single trial lies at a level."""

    mean: float
    low: float
    high: float


def features(trials: Sequence[PlainTrial], bakers: Sequence[str]) -> Floats:
    """Give the columns of the regression.

    Parameters
    ----------
    bakers : sequence of str
        One column each; a baker who is none of them has none.

    Returns
    -------
    array of shape (trials, 7 + bakers)
        1, then ln(leaf/10 µm), chill and bake, each with its square.
    """
    leaf = np.log(np.array([t.fat_leaf_um for t in trials]) / LEAF_UM)
    chill = (np.array([t.chill_min for t in trials]) - CHILL_MIN) / CHILL_SPAN
    bake = (np.array([t.bake_c for t in trials]) - BAKE_C) / BAKE_SPAN
    plain = [np.ones(len(trials)), leaf, leaf**2, chill, chill**2, bake, bake**2]
    own = [np.array([float(t.baker == name) for t in trials]) for name in bakers]
    return np.stack([*plain, *own], axis=1)


def learn(trials: Sequence[tuple[PlainTrial, float | None]], prior: Prior = LIFT) -> Learned:
    """Learn from trials; those without an outcome count for nothing.

    Notes
    -----
    Conjugate regression, as `after_data` does it; what is recalled of the coefficients over what
    is recalled of the scatter is the prior.
    """
    known = [(trial, value) for trial, value in trials if value is not None]
    bakers = tuple(dict.fromkeys(trial.baker for trial, _ in known))
    m0 = np.array([*prior.mean, *(0.0 for _ in bakers)])
    spread = np.array([*prior.spread, *(prior.baker for _ in bakers)])
    before = before_data(m0, spread, prior.scatter, prior.weight)
    if not known:
        return Learned(before, bakers)
    x = features([trial for trial, _ in known], bakers)
    return Learned(after_data(before, x, np.array([v for _, v in known], dtype=float)), bakers)


def predict(
    learned: Learned, asked: Sequence[PlainTrial], level: float = 0.95, prior: Prior = LIFT
) -> tuple[Interval, ...]:
    """Give what a new single trial would come to.

    Parameters
    ----------
    asked : sequence of PlainTrial
        A baker who was never seen is as uncertain as bakers differ.
    level : float
        Of the intervals, between 0 and 1 [-].
    prior : Prior
        That it was learned with.

    Returns
    -------
    tuple of Interval
        In the order asked.

    Notes
    -----
    Student's t with 2a degrees of freedom and scale √(b/a · (1 + xᵀVx + new baker)).
    """
    if not asked:
        return ()
    x = features(asked, learned.bakers)
    mean = x @ learned.belief.mean
    new = np.array([t.baker not in learned.bakers for t in asked], dtype=float)
    spread = 1 + spread_of(learned.belief, x) + new * (prior.baker / prior.scatter) ** 2
    half = half_width(learned.belief, spread, level)
    return tuple(
        Interval(float(m), float(m - h), float(m + h)) for m, h in zip(mean, half, strict=True)
    )


def check_trials(
    trials: Sequence[tuple[PlainTrial, float | None]], asked: Sequence[PlainTrial], level: float
) -> None:
    """Refuse what cannot be learned from.

    Raises
    ------
    FormulaError
        Listing every field that cannot be used.
    """
    wrong = Problems()
    for words, many, most in (
        ("trials", len(trials), MOST_TRIALS),
        ("ask", len(asked), MOST_ASKED),
    ):
        if many > most:
            wrong.add(f"{words}: {many} are too many; up to {most} fit.")
    if not 0 < level < 1:
        wrong.add(f"level: {level} is no level; use one between 0 and 1, e.g. 0.95.")
    rows = [(f"trials[{i}]", t) for i, (t, _) in enumerate(trials[:MOST_TRIALS])]
    rows += [(f"ask[{i}]", t) for i, t in enumerate(asked[:MOST_ASKED])]
    for place, trial in rows:
        wrong.number(f"{place}.fat_leaf_um", trial.fat_leaf_um, 0.1, 5000, "µm")
        wrong.number(f"{place}.chill_min", trial.chill_min, 0, 20_000, "min")
        wrong.number(f"{place}.bake_c", trial.bake_c, 30, 350, "°C")
    for i, (_, value) in enumerate(trials[:MOST_TRIALS]):
        if value is not None:
            wrong.number(f"trials[{i}].lift", value, LEAST_LIFT, MOST_LIFT, "")
    if len({t.baker for t, _ in trials}) > MOST_BAKERS:
        wrong.add(f"trials: more than {MOST_BAKERS} bakers.")
    wrong.check()
