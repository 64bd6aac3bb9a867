"""Firmness of a fat by cone penetration.

Haighton, A. J. (1959), *The measurement of the hardness of margarine and fats with cone
penetrometers*, Journal of the American Oil Chemists' Society 36: C = K·W / p^1.6. The constants
and classes below are his, given here from memory.
"""

import math
from typing import Literal

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import g_text, mm_range, mm_text

CONE_K: dict[int, float] = {30: 9670.0, 40: 5840.0, 60: 2815.0, 90: 1040.0}
"""K by the cone's full angle [°]."""

USUAL_CONE_G = 79.03
"""Mass of the usual cone and its holder [g]; weigh your own."""

Firmness = Literal["soft", "plastic", "hard"]

CLASSES: tuple[tuple[float, str, Firmness], ...] = (
    (50, "very soft, just pourable", "soft"),
    (100, "very soft, not spreadable", "soft"),
    (200, "soft, spreads already", "soft"),
    (800, "plastic and spreadable", "plastic"),
    (1000, "hard, still spreads", "hard"),
    (1500, "too hard, at the limit of spreading", "hard"),
    (math.inf, "too hard", "hard"),
)
"""Upper end of each class [g/cm²], its words, and what it means for enclosing."""


def yield_value(penetration_mm: float, cone_g: float, k: float = CONE_K[40]) -> float:
    """Yield value of a fat from the depth a cone sinks to.

    Yield value C [g/cm²].

    Parameters
    ----------
    penetration_mm : float
        Depth after 5 s [mm], 0.5 to 60.
    cone_g : float
        Mass of cone and holder [g], 5 to 2000.
    k : float
        Constant of the cone's angle [-].

    Raises
    ------
    AplombError
        Outside these ranges.

    Notes
    -----
    C = K·W / p^1.6 with p in tenths of a millimetre (Haighton 1959).

    Examples
    --------
    >>> round(yield_value(12.0, 80.0, 40), 1)
    1.5
    """
    if not 0.5 <= penetration_mm <= 60:
        raise AplombError(
            f"this works for a cone that sinks {mm_range(0.5, 60)}, not "
            f"{mm_text(penetration_mm, '.6g')}"
        )
    if not 5 <= cone_g <= 2000:
        raise AplombError(
            f"a cone weighs {g_text(5)} to {g_text(2000)}, not {g_text(cone_g, '.6g')}"
        )
    if not (math.isfinite(k) and k > 0):
        raise AplombError("the cone’s constant must be above 0")
    return float(k * cone_g / (10 * penetration_mm) ** 1.6)


def classed(yield_g_cm2: float) -> tuple[str, Firmness]:
    """Say in words how firm a yield value [g/cm²] is, and whether it can be enclosed.

    Examples
    --------
    >>> classed(400.0)
    ('plastic and spreadable', 'plastic')
    """
    for upto, words, firmness in CLASSES:
        if yield_g_cm2 < upto:
            return words, firmness
    return CLASSES[-1][1], CLASSES[-1][2]
