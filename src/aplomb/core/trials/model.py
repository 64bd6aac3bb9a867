"""What trials say of an outcome, over every factor that was written down.

Few trials and much scatter are the usual case; an answer carries its interval, and the interval is
that of a *new single* trial, scatter and all.
"""

from collections.abc import Sequence
from statistics import fmean

import numpy as np
from msgspec import Struct

from aplomb.core.trials.came import came_of
from aplomb.core.trials.regression import (
    Belief,
    Floats,
    after_data,
    before_data,
    half_width,
    spread_of,
    standing_out,
)
from aplomb.core.trials.trial import Made, Trial

MOST_LEARNED = 20_000
STANDS_OUT = 3.0
"""A trial so far from what all others say is marked, never dropped [-]; recalled."""
LEAST_SCATTER_SHARE = 0.6
"""Alike trials of the book may make the recalled scatter so much smaller at the most [-]: one that
is too small lies."""


class Factor(Struct, frozen=True):
    """Something that is set, and how an outcome may hang on it.

    Attributes
    ----------
    key : str
        A field of `Made`.
    middle, span : float
        Where the prior has its middle, and what one unit of it is, in its unit; of a logarithm the
        middle alone counts.
    log : bool
        Its logarithm counts.
    """

    key: str
    middle: float
    span: float
    log: bool = False

    def scaled(self, value: float) -> float:
        """Give a value in units of the span from the middle [-]."""
        if self.log:
            return float(np.log(max(value, 1e-6) / self.middle) / self.span)
        return (value - self.middle) / self.span


FACTORS: tuple[Factor, ...] = (
    Factor("fat_leaf_um", 10.0, 1.0, log=True),
    Factor("chill_min", 60.0, 45.0),
    Factor("bake_c", 200.0, 20.0),
    Factor("fat_pct", 80.0, 25.0),
    Factor("block_c", 14.0, 4.0),
    Factor("bake_min", 25.0, 8.0),
)
"""Every factor that is a figure."""
WORDS = ("fat_kind", "baker")
"""Factors that are words: each has a share of its own."""
MOST_WORDS = 200
"""So many bakers and fats are told apart [-]."""


class OutcomePrior(Struct, frozen=True):
    """What is believed of an outcome before the first trial; all recalled.

    Attributes
    ----------
    level : (mean, standard deviation)
        Of a trial in the middle of every factor.
    slopes, bends : tuple of (mean, standard deviation)
        For one unit of each factor, and for its square, in the order of `FACTORS`.
    word : float
        Standard deviation between bakers, or between fats.
    scatter, weight : float
        Likely scatter of trials that are alike, and how many trials that is worth.
    """

    level: tuple[float, float]
    slopes: tuple[tuple[float, float], ...]
    bends: tuple[tuple[float, float], ...]
    word: float
    scatter: float
    weight: float = 4.0


def _flat(level: float, spread: float, scatter: float) -> OutcomePrior:
    """What is recalled of an outcome of which only the usual range is told."""
    slopes = ((0.0, 0.35 * spread),) * len(FACTORS)
    bends = ((0.0, 0.25 * spread),) * len(FACTORS)
    return OutcomePrior((level, spread), slopes, bends, 0.3 * spread, scatter)


LIFT = OutcomePrior(
    level=(4.0, 1.5),
    slopes=((0.0, 0.8), (0.2, 0.5), (0.1, 0.5), (0.0, 0.3), (0.0, 0.3), (0.0, 0.3)),
    bends=((-0.5, 0.5), (-0.1, 0.3), (-0.1, 0.3), (-0.05, 0.15), (-0.05, 0.15), (-0.05, 0.15)),
    word=0.35, scatter=0.45,
)  # fmt: skip
"""Lift: three to four times the raw height is told as an ordinary good result, six to eight as the
best (common practice); best at some leaf, falling to both sides; all else recalled."""

PRIORS: dict[str, OutcomePrior] = {
    "lift": LIFT,
    "even_pct": _flat(85.0, 12.0, 5.0),
    "loss_pct": _flat(14.0, 4.0, 1.2),
    "leak_pct": _flat(1.5, 2.0, 0.6),
    "shrink_along_pct": _flat(8.0, 6.0, 2.0),
    "shrink_across_pct": _flat(5.0, 5.0, 2.0),
}
"""Outcomes that are learned, with what is recalled of them."""


class Row(Struct, frozen=True):
    """A trial that is learned from.

    Attributes
    ----------
    key : str
        Of the trial.
    made : Made
        Gaps filled, as `filled` tells.
    value : float
        In the outcome's unit.
    """

    key: str
    made: Made
    value: float


class Interval(Struct, frozen=True):
    """A mean, and the ends between which a new single trial lies at a level."""

    mean: float
    low: float
    high: float


class Model(Struct, frozen=True):
    """What the trials say of one outcome.

    Attributes
    ----------
    words : tuple of (factor, word)
        In the order of their columns.
    usual : dict of float, by factor
        What stands where a trial does not say: the mean of those that do, or the prior's middle.
    out : tuple of float
        How far each row stands from what the others say [-].
    """

    outcome: str
    belief: Belief
    words: tuple[tuple[str, str], ...]
    rows: tuple[Row, ...]
    usual: dict[str, float]
    prior: OutcomePrior
    out: tuple[float, ...]

    @property
    def n(self) -> int:
        """Trials that were learned from [-]."""
        return len(self.rows)

    @property
    def outliers(self) -> tuple[str, ...]:
        """Keys of the trials that stand out."""
        return tuple(
            row.key for row, t in zip(self.rows, self.out, strict=True) if abs(t) > STANDS_OUT
        )

    def known(self, factor: str) -> int:
        """How many of the trials say a factor [-]."""
        return sum(getattr(row.made, factor) is not None for row in self.rows)

    def columns(self, asked: Sequence[Made]) -> Floats:
        """Give the columns of the regression for some trials.

        Returns
        -------
        array of shape (asked, 1 + 2 factors + words)
        """
        return _columns(asked, self.words, self.usual)

    def predict(self, asked: Sequence[Made], level: float = 0.95) -> tuple[Interval, ...]:
        """Give what a new single trial would come to.

        Parameters
        ----------
        asked : sequence of Made
            A baker or fat never seen is as uncertain as they differ.
        level : float
            Of the intervals [-].
        """
        if not asked:
            return ()
        x = self.columns(asked)
        new = np.array([_unseen(made, self.words) for made in asked], dtype=float)
        spread = 1 + spread_of(self.belief, x) + new * (self.prior.word / self.prior.scatter) ** 2
        return _intervals(x @ self.belief.mean, half_width(self.belief, spread, level))

    def mean(self, asked: Sequence[Made], level: float = 0.95) -> tuple[Interval, ...]:
        """Give what many such trials would come to on the mean; as `predict`, without scatter."""
        if not asked:
            return ()
        x = self.columns(asked)
        half = half_width(self.belief, spread_of(self.belief, x), level)
        return _intervals(x @ self.belief.mean, half)


def _intervals(mean: Floats, half: Floats) -> tuple[Interval, ...]:
    return tuple(
        Interval(float(m), float(m - h), float(m + h)) for m, h in zip(mean, half, strict=True)
    )


def _unseen(made: Made, words: tuple[tuple[str, str], ...]) -> int:
    """How many of its words were never seen [-]; no word at all is none."""
    said = [(factor, getattr(made, factor)) for factor in WORDS]
    return sum(bool(word) and (factor, word) not in words for factor, word in said)


def _columns(
    asked: Sequence[Made], words: tuple[tuple[str, str], ...], usual: dict[str, float]
) -> Floats:
    plain = [np.ones(len(asked))]
    for factor in FACTORS:
        given = (getattr(made, factor.key) for made in asked)
        z = np.array([factor.scaled(usual[factor.key] if v is None else v) for v in given])
        plain += [z, z**2]
    own = [np.array([float(getattr(made, f) == word) for made in asked]) for f, word in words]
    return np.stack([*plain, *own], axis=1)


def model_of(trials: Sequence[Trial], outcome: str = "lift") -> Model:
    """Learn an outcome from all trials of a book.

    Parameters
    ----------
    trials : sequence of Trial
        Failed bakes and trials without this outcome are passed over.
    outcome : str
        A key of `PRIORS`.

    Notes
    -----
    Normal-inverse-gamma regression (`after_data`) on 1, each factor and its square, and a column
    for every baker and every fat. The recalled scatter is put right by trials of the book that are
    alike in all factors, but never made smaller than `LEAST_SCATTER_SHARE` of itself.
    """
    came = [(t, c.mean) for t in trials[-MOST_LEARNED:] if (c := came_of(t, outcome)) is not None]
    return model_of_rows(tuple(Row(t.key, t.made, value) for t, value in came), outcome)


def model_of_rows(rows: tuple[Row, ...], outcome: str = "lift") -> Model:
    """Learn an outcome from what was done and what came of it; as `model_of`."""
    usual = {}
    for factor in FACTORS:
        said = [v for row in rows if (v := getattr(row.made, factor.key)) is not None]
        usual[factor.key] = fmean(said) if said else factor.middle
    pairs = ((f, getattr(row.made, f)) for f in WORDS for row in rows)
    words = tuple(dict.fromkeys(p for p in pairs if p[1]))[:MOST_WORDS]
    prior = _with_scatter(PRIORS[outcome], rows)
    bends = [value for pair in zip(prior.slopes, prior.bends, strict=True) for value in pair]
    mean = np.array([prior.level[0], *(m for m, _ in bends), *(0.0 for _ in words)])
    spread = np.array([prior.level[1], *(s for _, s in bends), *(prior.word for _ in words)])
    before = before_data(mean, spread, prior.scatter, prior.weight)
    if not rows:
        return Model(outcome, before, words, rows, usual, prior, ())
    x = _columns([row.made for row in rows], words, usual)
    y = np.array([row.value for row in rows])
    belief = after_data(before, x, y)
    out = tuple(float(t) for t in standing_out(belief, x, y))
    return Model(outcome, belief, words, rows, usual, prior, out)


def _with_scatter(prior: OutcomePrior, rows: Sequence[Row]) -> OutcomePrior:
    """Put the recalled scatter right by trials that are alike in everything that is set."""
    alike: dict[tuple[object, ...], list[float]] = {}
    for row in rows:
        said = [getattr(row.made, f.key) for f in FACTORS]
        key = (
            *(None if v is None else round(v, 1) for v in said),
            *(getattr(row.made, f) for f in WORDS),
        )
        alike.setdefault(key, []).append(row.value)
    squares = sum(sum((v - fmean(g)) ** 2 for v in g) for g in alike.values() if len(g) > 1)
    freedom = sum(len(g) - 1 for g in alike.values() if len(g) > 1)
    if not freedom:
        return prior
    both = (squares + prior.weight * prior.scatter**2) / (freedom + prior.weight)
    scatter = max(float(both) ** 0.5, LEAST_SCATTER_SHARE * prior.scatter)
    return OutcomePrior(prior.level, prior.slopes, prior.bends, prior.word, scatter, prior.weight)
