"""An outcome over what was set: every trial, what was learned, and the bands, as plain data."""

from collections.abc import Collection, Sequence
from statistics import fmean

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.opinion.opinion import Band
from aplomb.core.trials.bands import LearnedBand, grid_of, learned_band
from aplomb.core.trials.came import Came, came_of
from aplomb.core.trials.model import FACTORS, PRIORS, Model, model_of
from aplomb.core.trials.trial import MADE_WORDS, OUTCOMES, Made, Trial

LEVEL = 0.9
SEED = 20261126
"""Of the draws behind a band: the same trials give the same band."""
LEAST_FOR_CURVE = 4
"""With fewer trials no curve is drawn: it would be the prior's own [-]."""


class TrialPoint(Struct, frozen=True):
    """A trial on the chart.

    Attributes
    ----------
    x : float
        In the factor's unit.
    y : float or None
        In the outcome's unit; None for a bake that failed or was not measured.
    scatter : float or None
        Of its pieces.
    mark : {'plain', 'out', 'failed', 'missing', 'other'}
        ``other`` for a trial of another series.
    """

    key: str
    words: str
    x: float
    y: float | None
    scatter: float | None
    mark: str


class TrialChart(Struct, frozen=True):
    """All that is drawn.

    Attributes
    ----------
    log : bool
        The factor's axis is logarithmic.
    grid, mean, low, high : tuple of float
        The curve: the mean, and the ends between which it lies in 90 of 100 cases; empty for none.
    new_low, new_high : tuple of float
        Between which a new single trial lies.
    recalled : Band or None
        That stands for the factor as a reading.
    n : int
        Trials that were learned from [-].
    scatter : float
        Of alike trials, in the outcome's unit.
    """

    outcome: str
    factor: str
    log: bool
    points: tuple[TrialPoint, ...]
    grid: tuple[float, ...]
    mean: tuple[float, ...]
    low: tuple[float, ...]
    high: tuple[float, ...]
    new_low: tuple[float, ...]
    new_high: tuple[float, ...]
    band: LearnedBand | None
    recalled: Band | None
    n: int
    scatter: float


def usual_made(model: Model, series: Sequence[Trial]) -> Made:
    """Give how trials of a series are made on the mean, for all that is not looked at."""
    found: dict[str, float] = {}
    for factor in FACTORS:
        said = [v for t in series if (v := getattr(t.made, factor.key)) is not None]
        found[factor.key] = fmean(said) if said else model.usual[factor.key]
    return Made(**found)  # type: ignore[arg-type]


def _mark_of(trial: Trial, came: Came | None, out: Collection[str], *, mine: bool) -> str:
    """Say as what a trial is drawn."""
    if trial.failed:
        return "failed"
    if came is None:
        return "missing"
    if trial.key in out:
        return "out"
    return "plain" if mine else "other"


def chart_of(
    trials: Sequence[Trial],
    series: str,
    outcome: str,
    factor: str,
    recalled: Band | None = None,
) -> TrialChart:
    """Work out a chart; beside the window, because learning takes a moment.

    Parameters
    ----------
    trials : sequence of Trial
        Of the whole book.
    series : str
        Whose trials are shown in front; empty for all.
    factor : str
        A figure of `Made`.
    """
    model = model_of(trials, outcome) if outcome in PRIORS else None
    out = model.outliers if model else ()
    points = []
    for trial in trials:
        x = getattr(trial.made, factor)
        if x is None:
            continue
        came = came_of(trial, outcome)
        mark = _mark_of(trial, came, out, mine=not series or trial.series == series)
        name = trial.variant or trial.formula
        points.append(
            TrialPoint(
                trial.key,
                f"{name}, {trial.at[:10]}",
                float(x),
                came.mean if came else None,
                came.scatter if came else None,
                mark,
            )
        )
    about = next((f for f in FACTORS if f.key == factor), None)
    log = bool(about and about.log)
    flat = TrialChart(
        outcome,
        factor,
        log,
        tuple(points),
        (),
        (),
        (),
        (),
        (),
        (),
        None,
        recalled,
        model.n if model else 0,
        model.belief.scatter if model else 0.0,
    )
    if model is None or about is None or model.known(factor) < LEAST_FOR_CURVE:
        return flat
    grid = grid_of(model, factor)
    if not len(grid):
        return flat
    mine_all = [t for t in trials if not series or t.series == series]
    usual = usual_made(model, mine_all)
    asked = [replace(usual, **{factor: float(v)}) for v in grid]
    known, new = model.mean(asked, LEVEL), model.predict(asked, LEVEL)
    band = learned_band(model, factor, np.random.default_rng(SEED))
    return replace(
        flat,
        grid=tuple(float(v) for v in grid),
        mean=tuple(i.mean for i in known),
        low=tuple(i.low for i in known),
        high=tuple(i.high for i in known),
        new_low=tuple(i.low for i in new),
        new_high=tuple(i.high for i in new),
        band=band,
    )


def chart_words(chart: TrialChart) -> str:
    """Say a chart, for those who do not see it."""
    what, over = OUTCOMES[chart.outcome].words, MADE_WORDS[chart.factor].words.lower()
    seen = [p for p in chart.points if p.y is not None]
    words = f"{what} against {over}: {len(seen)} trials measured"
    gone = len(chart.points) - len(seen)
    words += f", {gone} failed or not measured" if gone else ""
    if chart.grid:
        at = max(range(len(chart.grid)), key=lambda i: chart.mean[i])
        words += f"; highest at {chart.grid[at]:.3g}"
    return words + "."
