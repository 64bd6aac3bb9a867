"""How often a sheet goes round when it is rolled to a log, and how thick the log is."""

import math

from aplomb.core.base.errors import AplombError


def windings(length_mm: float, thickness_mm: float) -> float:
    """Windings of a sheet rolled tight to a log, without a hollow.

    N [-]; a line through the log's middle crosses 2 N windings.

    Parameters
    ----------
    length_mm, thickness_mm : float
        Of the sheet [mm], both above 0.

    Raises
    ------
    AplombError
        For a length or thickness that is not above 0.

    Notes
    -----
    The cut face of the log is the edge of the sheet: π R² = L t with R = N t, so
    L = π N² t, and N = √(L / (π t)).

    Examples
    --------
    >>> round(windings(300.0, 3.0), 2)  # N = √(L / (π t))
    5.64
    """
    if not (0 < length_mm < math.inf and 0 < thickness_mm < math.inf):
        raise AplombError("a sheet that is rolled up needs a length and a thickness above 0 mm")
    return math.sqrt(length_mm / (math.pi * thickness_mm))


def log_radius_mm(length_mm: float, thickness_mm: float) -> float:
    """Radius of the log [mm], from the area of its cut face; raises as `windings`.

    Notes
    -----
    The area is kept: π r² = length × thickness.

    Examples
    --------
    >>> round(log_radius_mm(300.0, 3.0), 1)
    16.9
    """
    return windings(length_mm, thickness_mm) * thickness_mm
