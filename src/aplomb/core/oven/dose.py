"""Trading temperature for minutes, learned from bakes that came out alike.

Colour and dryness follow no law that holds over ovens and pastes; what a bakery sees in its own is
that a bake so much hotter is done so much sooner. That trade is fitted, never derived.
"""

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from aplomb.core.base.errors import Problems
from aplomb.core.trials.regression import after_data, before_data, half_width, spread_of

USUAL_PER_K, SPREAD_PER_K = -0.011, 0.006
"""Minutes fall by about one part in ninety for each kelvin: 20 K make a fifth; recalled [1/K]."""
MIDDLE_C = 200.0
SCATTER, WEIGHT = 0.12, 4.0
"""Minutes of alike bakes scatter by an eighth; recalled [-]."""


class Bake(Struct, frozen=True):
    """A bake that came out as wanted: oven on the mean, without a fan [°C], and minutes [min]."""

    mean_c: float
    minutes: float


class Traded(Struct, frozen=True):
    """Minutes at another temperature.

    Attributes
    ----------
    minutes, low, high : float
        And the ends between which a single bake lies in 90 of 100 cases [min].
    n : int
        Own bakes it was learned from [-].
    """

    minutes: float
    low: float
    high: float
    n: int


def trade(bakes: Sequence[Bake], at_c: float, usual_min: float, level: float = 0.9) -> Traded:
    """Say how long a bake takes at a temperature.

    Parameters
    ----------
    bakes : sequence of Bake
        Own ones of one product in one oven that came out as wanted.
    at_c : float
        The oven on the mean, without a fan [°C].
    usual_min : float
        What is usual at 200 °C, where nothing is known yet [min].
    level : float
        Of the interval [-].

    Raises
    ------
    FormulaError
        For figures that cannot be.

    Notes
    -----
    ln(minutes) = a + b (T − 200), by conjugate regression with b around −0.011/K.
    """
    wrong = Problems()
    wrong.number("oven", at_c, 30, 370, "°C")
    wrong.number("usual", usual_min, 0.5, 600, "min")
    for i, bake in enumerate(bakes):
        wrong.number(f"bakes[{i}], oven", bake.mean_c, 30, 370, "°C")
        wrong.number(f"bakes[{i}]", bake.minutes, 0.5, 600, "min")
    wrong.check()
    prior = before_data(
        np.array([math.log(usual_min), USUAL_PER_K]),
        np.array([0.35, SPREAD_PER_K]),
        SCATTER,
        WEIGHT,
    )
    x = np.array([[1.0, bake.mean_c - MIDDLE_C] for bake in bakes]).reshape(-1, 2)
    belief = after_data(prior, x, np.log(np.array([bake.minutes for bake in bakes])))
    asked = np.array([[1.0, at_c - MIDDLE_C]])
    mean = float((asked @ belief.mean)[0])
    half = float(half_width(belief, 1 + spread_of(belief, asked), level)[0])
    return Traded(math.exp(mean), math.exp(mean - half), math.exp(mean + half), len(bakes))
