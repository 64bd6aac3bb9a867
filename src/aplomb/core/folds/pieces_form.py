"""What pieces of fat are like, and how many a line through the gathered mass meets."""

from typing import Literal

from aplomb.core.base.errors import AplombError

Form = Literal["cubes", "flakes", "crumbs", "gratings"]

FORMS: dict[Form, tuple[float, float, float]] = {
    "cubes": (1.0, 1.0, 1.0),
    "flakes": (1.0, 1.0, 0.25),
    "crumbs": (1.0, 1.0, 1.0),
    "gratings": (4.0, 1.0, 1.0),
}
"""Length, width and height of a piece over its size [-]: pressed flakes are a quarter as high as
wide, gratings four times as long (our assumption). Crumbs are cubes of very unlike sizes."""

CRUMB_SPREAD = 0.5
"""Least spread of the sizes of crumbs [-], our assumption."""


def spread_of(form: Form, spread: float) -> float:
    """Give the spread of sizes that is worked with [-]; crumbs have some at the least."""
    return max(spread, CRUMB_SPREAD) if form == "crumbs" else spread


def pieces_at_start(
    fat_share: float, gathered_mm: float, piece_mm: float, form: Form = "cubes", spread: float = 0.0
) -> float:
    """Mean number of fat pieces along a vertical line before the first turn [-].

    Parameters
    ----------
    fat_share : float
        Volume share of the pieces [-], 0 to 1.
    gathered_mm : float
        Height of the gathered mass [mm].
    piece_mm : float
        Size of a piece [mm]; pressing it flatter only raises the mean.
    form, spread : Form, float
        As in `Mass`.

    Raises
    ------
    AplombError
        When a length is not above zero.

    Notes
    -----
    A line crosses fat for φ H of the height, one piece's height h at a time. Of pieces of unlike
    sizes f h a line meets the large ones more often: the mean crossing is h E[f³] / E[f²], with f
    even between 1 - s and 1 + s: E[f²] = 1 + s²/3 and E[f³] = 1 + s². Rolling thins all alike, and
    each turn multiplies the number by its panels.
    """
    if gathered_mm <= 0 or piece_mm <= 0:
        raise AplombError("the pieces and the gathered dough need a size above 0 mm")
    s = spread_of(form, spread)
    return fat_share * gathered_mm / (piece_mm * FORMS[form][2]) * (1 + s * s / 3) / (1 + s * s)
