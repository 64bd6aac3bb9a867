"""What pieces of fat are like, and how many a line through the gathered mass meets."""

from typing import Literal, NamedTuple

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


class Seen(NamedTuple):
    """A size of fat as a person sees it.

    Attributes
    ----------
    low_mm, high_mm : float
        What goes by that name [mm], from memory.
    """

    name: str
    form: Form
    low_mm: float
    high_mm: float

    @property
    def size_mm(self) -> float:
        """The middle of it [mm]."""
        return (self.low_mm + self.high_mm) / 2

    @property
    def spread_pct(self) -> float:
        """How far both ends are from the middle [%]."""
        return 100 * (self.high_mm - self.low_mm) / (self.high_mm + self.low_mm)


SEEN: tuple[Seen, ...] = (
    Seen("grated", "gratings", 2, 3),
    Seen("thin slices", "flakes", 12, 16),
    Seen("like peas", "cubes", 5, 8),
    Seen("like hazelnuts", "cubes", 10, 14),
    Seen("hazelnuts pressed flat", "flakes", 10, 14),
    Seen("cubes of 12 mm", "cubes", 11, 13),
    Seen("cubes of 15 mm", "cubes", 14, 16),
    Seen("cubes of 20 mm", "cubes", 18, 22),
    Seen("like walnuts", "cubes", 20, 25),
    Seen("walnuts pressed flat", "flakes", 20, 25),
)
"""Sizes as one sees them; what is pressed flat is a quarter as thick. From memory."""


def leaves_band(mean: float, spread: float) -> tuple[float, float]:
    """Give the leaves to expect when all pieces were the largest or the smallest [-].

    Parameters
    ----------
    mean : float
        Leaves to expect on the mean [-].
    spread : float
        How far sizes lie from their mean [-].

    Notes
    -----
    A line through the mass meets pieces in proportion to 1 / size, so the band goes from
    mean / (1 + s) to mean / (1 - s).

    Examples
    --------
    >>> leaves_band(90.0, 0.2)
    (75.0, 112.5)
    """
    return mean / (1 + spread), mean / max(0.05, 1 - spread)


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
