"""Which trial would improve or teach most, and small designs over days and bakers."""

import itertools
import math
from collections.abc import Mapping, Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import Problems
from aplomb.core.trials.model import FACTORS, Interval, Model
from aplomb.core.trials.regression import Floats, half_width, spread_of
from aplomb.core.trials.trial import MADE_WORDS, OUTCOMES, Made

CANDIDATES = 360
"""So many settings are looked at [-]."""
LEVELS = {1: 41, 2: 17, 3: 7}
"""Steps of each factor on a grid, by the number of factors [-]; more of them are drawn."""
NODES = 121
Limits = Mapping[str, tuple[float, float]]
"""Least and most of each factor that may change, in its unit."""


class Suggestion(Struct, frozen=True):
    """A trial worth making.

    Attributes
    ----------
    made : Made
        Its settings.
    gain : float
        What the best setting known afterwards is likely to be better by, in the outcome's unit.
    teaches : float
        Share of what is not known of the outcome within the limits that it would take away [-].
    likely : Interval
        What this one would come to.
    """

    made: Made
    gain: float
    teaches: float
    likely: Interval


def candidates(limits: Limits, fixed: Made, rng: np.random.Generator) -> list[Made]:
    """Give settings within limits: a grid of up to three factors, or drawn evenly.

    Parameters
    ----------
    fixed : Made
        All that does not change.

    Raises
    ------
    FormulaError
        When a limit cannot be used.
    """
    wrong = Problems()
    keys = {factor.key for factor in FACTORS}
    for key, (low, high) in limits.items():
        if key not in keys:
            wrong.add(f"{key}: this cannot be changed; use one of {', '.join(sorted(keys))}.")
            continue
        about = MADE_WORDS[key]
        for value in (low, high):
            wrong.number(about.words.lower(), value, about.low, about.high, about.unit)
        if low > high:
            wrong.add(
                f"{about.words.lower()}: from {low:g} to {high:g} is the wrong way round; "
                "put the lower figure first."
            )
    if not limits:
        wrong.add("limits: let at least one thing change.")
    wrong.check()
    many = LEVELS.get(len(limits))
    if many is not None:
        axes = [_axis(key, low, high, many) for key, (low, high) in limits.items()]
        points = list(itertools.product(*axes))
    else:
        drawn = rng.random((CANDIDATES, len(limits)))
        points = [
            tuple(
                _axis(key, low, high, 1001)[int(u * 1000)]
                for u, (key, (low, high)) in zip(row, limits.items(), strict=True)
            )
            for row in drawn
        ]
    return [replace(fixed, **dict(zip(limits, point, strict=True))) for point in points]


def _axis(key: str, low: float, high: float, many: int) -> list[float]:
    if low == high:
        return [low]
    log = next(f for f in FACTORS if f.key == key).log
    spread = np.geomspace(low, high, many) if log else np.linspace(low, high, many)
    return [float(v) for v in spread]


def suggest(
    model: Model,
    limits: Limits,
    fixed: Made,
    rng: np.random.Generator,
    *,
    teach: bool = False,
    many: int = 3,
) -> tuple[Suggestion, ...]:
    """Say which trials would improve or teach most.

    The best first.

    Parameters
    ----------
    fixed : Made
        All that does not change.
    teach : bool
        By what they teach instead of what they gain.
    many : int
        How many, each well apart from those before it [-].

    Raises
    ------
    FormulaError
        When a limit cannot be used.

    Notes
    -----
    The knowledge gradient (Frazier, Powell and Dayanik 2009, *INFORMS J. Comput.* 21): after a
    trial at x the mean at x′ moves by σ̃(x′, x)·T with σ̃ = σ (φ′ᵀVφ) / √(1 + φᵀVφ); its worth is
    E max μ′ − max μ. Taking the setting that looks best now instead would learn nothing of all
    others. T is Student's, as the scatter is not known; the mean over it is taken at the middles of
    121 parts of equal chance.
    """
    from scipy.special import stdtrit

    settings = candidates(limits, fixed, rng)
    x = model.columns(settings)
    belief = model.belief
    sign = OUTCOMES[model.outcome].better or 1
    mean = sign * (x @ belief.mean)
    shared = x @ belief.cov @ x.T
    own = np.sqrt(1 + np.diag(shared))
    nodes = stdtrit(belief.freedom, (np.arange(NODES) + 0.5) / NODES)
    top = float(mean.max())
    gains = np.array(
        [
            float(
                (mean[:, None] + belief.scatter * (shared[:, i] / own[i])[:, None] * nodes)
                .max(axis=0)
                .mean()
            )
            - top
            for i in range(len(settings))
        ]
    )
    teaches = (shared**2).sum(axis=0) / own**2 / max(float(np.trace(shared)), 1e-12)
    likely = half_width(belief, 1 + spread_of(belief, x), 0.95)
    order = np.argsort(-(teaches if teach else gains), kind="stable")
    chosen: list[int] = []
    for i in order:
        if all(_apart(settings[i], settings[j], limits) for j in chosen):
            chosen.append(int(i))
        if len(chosen) == many:
            break
    return tuple(
        Suggestion(
            settings[i],
            max(0.0, float(gains[i])),
            float(teaches[i]),
            Interval(*(float(sign * mean[i] + d) for d in (0.0, -likely[i], likely[i]))),
        )
        for i in chosen
    )


def _apart(a: Made, b: Made, limits: Limits) -> bool:
    """True when two settings differ by a fifth of some range or more."""
    for key, (low, high) in limits.items():
        factor = next(f for f in FACTORS if f.key == key)
        wide = abs(factor.scaled(high) - factor.scaled(low)) or 1.0
        step = abs(factor.scaled(getattr(a, key)) - factor.scaled(getattr(b, key)))
        if step >= 0.2 * wide:
            return True
    return False


class DesignRun(Struct, frozen=True):
    """One bake of a design.

    Attributes
    ----------
    day : int
        1 for the first [-].
    place : int
        Its place in the order of that day, 1 for the first [-].
    """

    day: int
    baker: str
    place: int
    made: Made


def design(
    levels: Mapping[str, Sequence[float]],
    days: int,
    bakers: Sequence[str],
    fixed: Made,
    rng: np.random.Generator,
) -> tuple[DesignRun, ...]:
    """Lay out a small design: every setting once by each baker on each day, in random order.

    Day by day, in order.

    Parameters
    ----------
    levels : mapping of values, by factor
        One or two factors with two to four values each.
    days : int
        1 to 10 [-].
    bakers : sequence of str
        Empty for one whose name does not matter.
    rng : Generator
        Draws the order.

    Raises
    ------
    FormulaError
        When it is no small design.

    Notes
    -----
    A randomised complete block design: what a day or a baker does to all bakes alike falls out of
    every comparison (Box, Hunter and Hunter, *Statistics for Experimenters*).
    """
    wrong = Problems()
    if not 1 <= len(levels) <= 2:
        wrong.add(f"factors: {len(levels)} are given; change one or two at a time.")
    for key, values in levels.items():
        about = MADE_WORDS.get(key)
        if about is None or not about.high:
            wrong.add(f"{key}: this cannot be changed in a trial; choose another.")
            continue
        if not 2 <= len(set(values)) <= 4:
            wrong.add(f"{about.words.lower()}: {len(set(values))} values; use two to four.")
        for value in values:
            wrong.number(about.words.lower(), value, about.low, about.high, about.unit)
    wrong.number("days", days, 1, 10, "")
    wrong.check()
    points = itertools.product(*(dict.fromkeys(values) for values in levels.values()))
    settings = [replace(fixed, **dict(zip(levels, point, strict=True))) for point in points]
    runs = []
    for day in range(1, days + 1):
        for baker in bakers or ("",):
            order = rng.permutation(len(settings))
            runs += [
                DesignRun(day, baker, place, replace(settings[i], baker=baker or fixed.baker))
                for place, i in enumerate(order, 1)
            ]
    return tuple(runs)


def gain_by_draws(
    model: Model, settings: Sequence[Made], at: int, rng: np.random.Generator, draws: int
) -> float:
    """Give the gain of one trial by playing it out; slower than `suggest`, for checking it.

    Parameters
    ----------
    at : int
        Which is tried [-].

    Returns
    -------
    float
        In the outcome's unit.

    Notes
    -----
    After a trial at x the means move along one direction: μ' = μ + (V x / √(1 + xᵀVx)) σ T, T being
    Student's t with 2a degrees of freedom; the gain is E[max μ'] − max μ (Frazier, Powell & Dayanik
    2009, *INFORMS Journal on Computing* 21).
    """
    x: Floats = model.columns(settings)
    b = model.belief
    sign = OUTCOMES[model.outcome].better or 1
    mean = sign * (x @ b.mean)
    own = math.sqrt(1 + float(x[at] @ b.cov @ x[at]))
    moves = b.scatter * (x @ b.cov @ x[at]) / own
    t = rng.standard_t(b.freedom, draws)
    return float((mean[:, None] + moves[:, None] * t).max(axis=0).mean() - mean.max())
